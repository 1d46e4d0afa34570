// npm run demo: Iskel with the ferry company's recorded runs, and the ferry shop to replay them on.
import { serve } from './serve.mjs';

process.env.ISKEL_DATA ??= '.iskel/demo';
await serve('demo.mjs');
