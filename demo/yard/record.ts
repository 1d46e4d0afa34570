// Records the yard: every mechanism by real sessions, attempts that hurt and attempts that do not, each with its label.
// Those kept for measuring get as many hurt attempts as asked for, those that rules are made on fewer.
// Run: npm run record-yard [-- --failing 10 --learning 4 --passing 6 --only ID,ID --into FOLDER]
import { mkdirSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { startRecorder } from '../recorder.ts';
import { attemptOf, type Label } from './attempt.ts';
import { mechanisms } from './mechanisms.ts';
import { startYard } from './site.ts';

const { values } = parseArgs({
  options: {
    failing: { type: 'string', default: '10' },
    learning: { type: 'string', default: '4' },
    passing: { type: 'string', default: '6' },
    only: { type: 'string', default: '' },
    into: { type: 'string', default: '.iskel/yard' },
    hands: { type: 'string', default: '2' },
  },
});
const only = values.only.split(',').filter(Boolean);
const wanted = mechanisms.filter(({ id }) => only.length === 0 || only.some((one) => id.includes(one)));
mkdirSync(values.into, { recursive: true });
const file = join(values.into, 'labels.json');
const labels: Label[] = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Label[]) : [];
const kept = labels.filter(({ mechanism }) => !wanted.some(({ id }) => id === mechanism));
const found: Label[] = [];

const server = await startRecorder(values.into);

// Those that use the machine up are recorded alone, after all others.
const queue = wanted.filter(({ hogs }) => !hogs);
const alone = wanted.filter(({ hogs }) => hogs);
async function hand(list: typeof queue): Promise<void> {
  const yard = await startYard(mechanisms);
  for (let mechanism = list.shift(); mechanism; mechanism = list.shift()) {
    const here: Label[] = [];
    const free = mechanism.always ? 0 : Number(values.passing);
    const wanted = Number(mechanism.held ? values.failing : values.learning);
    const asMeant = ({ outcome, hurts }: Label): boolean =>
      outcome === (hurts && !mechanism.passes ? 'failed' : 'passed');
    // Some faults depend on the machine and do not show each time: they are tried again, up to twice as often.
    for (let i = 0, shown = 0; shown < wanted && i < free + 2 * wanted; i++) {
      const hurts = i >= free;
      const label = await attemptOf(mechanism, { remote: `${server.address}/wd`, yard, hurts, seed: 100 + i });
      here.push(label);
      if (hurts && asMeant(label)) shown++;
    }
    found.push(...here);
    const wrong = here.filter((one) => !asMeant(one));
    console.log(
      `${mechanism.id.padEnd(30)} ${mechanism.cause.padEnd(20)} ${here.map(({ outcome }) => (outcome === 'failed' ? '■' : '○')).join('')}${wrong.length ? `  ${wrong.length} not as meant: ${wrong[0]!.message}` : `  ${here.at(-1)!.message}`}`,
    );
    writeFileSync(file, JSON.stringify([...kept, ...found], undefined, 1));
  }
  await yard.close();
}
await Promise.all(Array.from({ length: Number(values.hands) }, () => hand(queue)));
await hand(alone);
await server.close();
process.exit(0);
