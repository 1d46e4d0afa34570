import { builtinModules } from 'node:module';
import { relative, sep } from 'node:path';
import { fileURLToPath } from 'node:url';
import { defineConfig, type Plugin } from 'vite';

// The server, its threads, the demo and the command line as a handful of files: they start in a third of the time that
// their five hundred sources take. What they read besides still lies where it lay.

const root = fileURLToPath(new URL('./', import.meta.url));

/** Files beside a source are found beside it, wherever the source was bundled to. */
const besideSources: Plugin = {
  name: 'beside-sources',
  transform: (code, id) => {
    const path = relative(root, id.split('?')[0]!).split(sep).join('/');
    if (!/^(?:src|demo)\//.test(path) || !code.includes('import.meta.url')) return undefined;
    return code.replaceAll('import.meta.url', `new URL(${JSON.stringify(`../../${path}`)}, import.meta.url).href`);
  },
};

export default defineConfig({
  plugins: [besideSources],
  ssr: {
    noExternal: [
      'joi',
      'hono',
      '@hono/node-server',
      'htmlparser2',
      're2js',
      'saxes',
      'fflate',
      'commander',
      /^(?:dom|entities)/,
    ],
    external: [...builtinModules],
  },
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'dist/server',
    emptyOutDir: true,
    minify: false,
    rolldownOptions: {
      input: {
        main: 'src/server/main.ts',
        demo: 'demo/serve.ts',
        cli: 'src/cli/main.ts',
        'stand-in': 'src/cli/stand-in.ts',
        'recording-thread': 'src/browser/devtools/recording-thread.ts',
        'analysis-thread': 'src/server/jobs/analysis-thread.ts',
        'contrast-thread': 'src/server/jobs/contrast-thread.ts',
        'evidence-desk-thread': 'src/server/jobs/evidence-desk-thread.ts',
        'keeping-thread': 'src/server/jobs/keeping-thread.ts',
        'intake-thread': 'src/server/ingest/delivered/intake-thread.ts',
        'spool-thread': 'src/server/ingest/spool-thread.ts',
      },
      output: { entryFileNames: '[name].mjs', chunkFileNames: '[name]-[hash].mjs' },
    },
  },
});
