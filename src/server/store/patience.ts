/** How long work is tried again while others write. */
const patienceMs = 15_000;
const pauses = [10, 20, 40, 80, 150];

/** Whether an error only says that another writer has the database just now. */
export const isBusy = (error: unknown): boolean =>
  typeof (error as { code?: unknown } | null)?.code === 'string' &&
  /^SQLITE_(BUSY|LOCKED)/.test((error as { code: string }).code);

/**
 * Does work that writes, and does it again after a pause as long as the database is busy. Between tries everything
 * else has its turn.
 * @throws what the work throws otherwise, and the busy error itself once the patience is over
 */
export async function patiently<T>(work: () => T | Promise<T>): Promise<T> {
  const end = performance.now() + patienceMs;
  for (let tries = 0; ; tries++) {
    try {
      return await work();
    } catch (error) {
      if (!isBusy(error) || performance.now() > end) throw error;
      await new Promise((done) => setTimeout(done, pauses[Math.min(tries, pauses.length - 1)]));
    }
  }
}
