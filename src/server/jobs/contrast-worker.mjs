// A worker thread does not inherit the TypeScript loader of the server; it registers its own.
import { register } from 'tsx/esm/api';

register();
await import('./contrast-thread.ts');
