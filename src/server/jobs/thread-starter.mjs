// A worker thread does not inherit the TypeScript loader of the server; it registers its own.
import { workerData } from 'node:worker_threads';
import { register } from 'tsx/esm/api';

register();
await import(workerData.starts);
