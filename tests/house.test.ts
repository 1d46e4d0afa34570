import { readdirSync, readFileSync, statSync } from 'node:fs';
import { dirname, join, normalize, relative } from 'node:path';
import { describe, expect, it } from 'vitest';
import { causes } from '../src/core/causes/register.ts';

/** The floors of the house, from the ground up: a file may import its own floor and lower ones. */
const floors = ['src/core', 'src/browser', 'src/server', 'src/web', 'src/cli'];
const mayImport: Record<string, string[]> = {
  'src/core': ['src/core'],
  'src/browser': ['src/core', 'src/browser'],
  'src/server': ['src/core', 'src/browser', 'src/server'],
  'src/web': ['src/core', 'src/web'],
  'src/cli': ['src/core', 'src/browser', 'src/server', 'src/cli'],
};

function filesBelow(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) return name === 'node_modules' || name === 'data' ? [] : filesBelow(path);
    return /\.(ts|vue|mjs|js)$/.test(name) ? [path] : [];
  });
}

const importsOf = (path: string): string[] =>
  [...readFileSync(path, 'utf8').matchAll(/(?:from|import)\s*\(?\s*['"]([^'"]+)['"]/g)].map((found) => found[1]!);
const floorOf = (path: string): string | undefined => floors.find((floor) => path.startsWith(`${floor}/`));

const files = filesBelow('src');
const edges = new Map(
  files.map((path) => [
    path,
    importsOf(path)
      .filter((name) => name.startsWith('.'))
      .map((name) => relative('.', normalize(join(dirname(path), name)))),
  ]),
);

describe('the floors', () => {
  it.each(floors)('%s imports only what lies below it', (floor) => {
    const wrong = [...edges]
      .filter(([path]) => path.startsWith(`${floor}/`))
      .flatMap(([path, targets]) =>
        targets
          .filter((target) => !mayImport[floor]!.includes(floorOf(target) ?? floor))
          .map((target) => `${path} → ${target}`),
      );
    expect(wrong).toEqual([]);
  });

  it('the core knows neither Node nor the page nor Vue', () => {
    const wrong = files
      .filter((path) => path.startsWith('src/core/') && !path.endsWith('.test.ts'))
      .flatMap((path) =>
        [
          ...importsOf(path).filter((name) => /^node:|^vue|^hono|^better-sqlite3|^ws$/.test(name)),
          ...(/\b(document|window|process|require)\./.test(stripped(path)) ? ['a global'] : []),
        ].map((name) => `${path}: ${name}`),
      );
    expect(wrong).toEqual([]);
  });

  it('there are no circles of imports', () => {
    const seen = new Map<string, 'open' | 'done'>();
    const circles: string[] = [];
    const visit = (path: string, trail: string[]): void => {
      if (seen.get(path) === 'done') return;
      if (seen.get(path) === 'open') return void circles.push([...trail.slice(trail.indexOf(path)), path].join(' → '));
      seen.set(path, 'open');
      for (const next of edges.get(path) ?? []) if (edges.has(next)) visit(next, [...trail, path]);
      seen.set(path, 'done');
    };
    for (const path of edges.keys()) visit(path, []);
    expect(circles).toEqual([]);
  });
});

/** Code without its comments and texts. */
const stripped = (path: string): string =>
  readFileSync(path, 'utf8').replaceAll(/\/\*[\s\S]*?\*\/|\/\/.*|'[^'\n]*'|`[^`]*`/g, '');

it('no file grows beyond 450 lines without a reason in its first line', () => {
  const long = [...files, ...filesBelow('demo'), ...filesBelow('benchmarks')]
    .filter((path) => !path.endsWith('.test.ts'))
    .filter((path) => {
      const lines = readFileSync(path, 'utf8')
        .replace(/<style[\s\S]*<\/style>/, '')
        .split('\n');
      return lines.length > 450 && !/^(\/\/|\/\*|<!--) Long because/.test(lines[0]!);
    });
  expect(long).toEqual([]);
});

it('every top folder says what lives there', () => {
  for (const folder of [...floors, 'demo', 'tests', 'benchmarks'])
    expect(statSync(join(folder, 'README.md')).size, folder).toBeGreaterThan(80);
});

it('every cause has a page that names every clue it is judged by', () => {
  const missing = causes.flatMap(({ code, for: pro, against, doubts }) => {
    const page = readFileSync(`docs/causes/${code}.md`, 'utf8');
    return [pro, against, doubts ?? {}]
      .flatMap((weights) => Object.keys(weights))
      .filter((clue) => !page.includes(`\`${clue}\``))
      .map((clue) => `${code}: ${clue}`);
  });
  expect(missing).toEqual([]);
  const index = readFileSync('docs/causes/README.md', 'utf8');
  for (const { code } of causes) expect(index).toContain(`(${code}.md)`);
});

it('every thread and program is among what is built', () => {
  const built = readFileSync('vite.server.config.ts', 'utf8');
  const threads = files.filter((path) => /-thread\.ts$/.test(path));
  expect(threads.length).toBeGreaterThan(4);
  expect(threads.filter((path) => !built.includes(`'${path}'`))).toEqual([]);
});
