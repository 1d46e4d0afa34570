// Waits for the server's end, however it comes: its end closes our standard input. Then ends what the
// server left running and removes its temporary folder. Arguments: the owner's key, the folder.
import { sweep } from './sweep.mjs';

const [mark, folder] = process.argv.slice(2);
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => {});
process.stdin.resume();
process.stdin.on('end', () => void sweep(mark, folder).then(() => process.exit(0)));
process.stdin.on('error', () => void sweep(mark, folder).then(() => process.exit(0)));
