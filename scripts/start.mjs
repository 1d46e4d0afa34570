// npm start: Iskel on its data folder. Installs and builds what is missing.
import { serve } from './serve.mjs';

await serve('main.mjs');
