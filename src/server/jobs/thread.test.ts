import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AskedThread, ThreadHung } from './thread.ts';

let folder: string;
let thread: AskedThread<{ what: string; n?: number }, number>;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'iskel-thread-'));
  const file = join(folder, 'asked.mts');
  const answering = new URL('./answering.ts', import.meta.url).href;
  writeFileSync(
    file,
    `import { answering } from '${answering}';
     import { workerData } from 'node:worker_threads';
     answering((question: { what: string; n?: number }): number => {
       if (question.what === 'throw') throw new RangeError('nobody can say');
       if (question.what === 'die') process.exit(3);
       if (question.what === 'hang') for (;;);
       if (question.what === 'explode') setTimeout(() => { throw new Error('later') });
       return (question.n ?? 0) * (workerData as { factor: number }).factor;
     });`,
  );
  thread = new AskedThread(pathToFileURL(file), { factor: 3 });
});
afterAll(async () => {
  await thread.close();
  rmSync(folder, { recursive: true });
});

describe('a thread that is asked', () => {
  it('answers each question with its own answer, however many at once', async () => {
    const answers = await Promise.all([1, 2, 3, 4, 5].map((n) => thread.ask({ what: 'multiply', n })));
    expect(answers).toEqual([3, 6, 9, 12, 15]);
    expect(thread.asked).toBe(0);
  });

  it('hands on what a question threw, and goes on answering', async () => {
    await expect(thread.ask({ what: 'throw' })).rejects.toThrow(/nobody can say/);
    expect(await thread.ask({ what: 'multiply', n: 7 })).toBe(21);
  });

  it('fails what it was asked when it dies, and is started anew by the next question', async () => {
    await expect(thread.ask({ what: 'die' })).rejects.toThrow(/ended/);
    expect(await thread.ask({ what: 'multiply', n: 2 })).toBe(6);
  });

  it('is ended when it hangs, says so, and answers the next question', async () => {
    const impatient = new AskedThread<{ what: string; n?: number }, number>(
      pathToFileURL(join(folder, 'asked.mts')),
      { factor: 2 },
      1500,
    );
    const hung = expect(impatient.ask({ what: 'hang' })).rejects.toThrow(ThreadHung);
    const behind = expect(impatient.ask({ what: 'multiply', n: 1 })).rejects.toThrow(/hung at something else/);
    await hung;
    await behind;
    const patient = new AskedThread<{ what: string; n?: number }, number>(pathToFileURL(join(folder, 'asked.mts')), {
      factor: 2,
    });
    expect(await patient.ask({ what: 'multiply', n: 4 })).toBe(8);
    await Promise.all([impatient.close(), patient.close()]);
  });

  it('lets nobody wait when it is closed', async () => {
    const open = thread.ask({ what: 'multiply', n: 1 });
    const closed = expect(open).rejects.toThrow(/closing/);
    await thread.close();
    await closed;
  });
});
