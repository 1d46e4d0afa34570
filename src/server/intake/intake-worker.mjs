// Worker threads are started by Node itself, which reads no TypeScript; this registers what does.
import { register } from 'tsx/esm/api';
register();
await import('./intake-thread.ts');
