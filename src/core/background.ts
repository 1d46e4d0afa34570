/**
 * Work that nobody waits for. It is named where it begins, so that what fails in it is told with what it belonged
 * to, and ends there: neither the process nor whoever began it is touched.
 */
export interface Trouble {
  /** What was being done, in words: “noting a command down”. */
  what: string;
  error: Error;
  /** What it belonged to: an attempt, a session, a delivery. */
  about?: string;
}

let told: (trouble: Trouble) => void = () => {};

/** Says where troubles are told, once for a process. Gives the one before, so that a test can put it back. */
export function tellTroubles(teller: (trouble: Trouble) => void): (trouble: Trouble) => void {
  const before = told;
  told = teller;
  return before;
}

/** Whatever was thrown, as an error with words. */
export const asError = (thrown: unknown): Error => {
  if (thrown instanceof Error) return thrown;
  try {
    return new Error(String(thrown));
  } catch {
    return new Error('something that has no words was thrown');
  }
};

/** Tells a trouble; a teller that fails itself is nobody's matter. */
export function trouble(what: string, thrown: unknown, about?: string): void {
  try {
    told({ what, error: asError(thrown), ...(about === undefined ? {} : { about }) });
  } catch {
    // There is nobody left to tell.
  }
}

/**
 * Lets work go on by itself.
 * @param what it is, in words @param about what it belongs to
 */
export function background(what: string, work: PromiseLike<unknown> | (() => unknown), about?: string): void {
  const begun = typeof work === 'function' ? guarded(what, work, about) : work;
  if (isPromise(begun)) begun.then(undefined, (error: unknown) => trouble(what, error, about));
}

/** Does work at once; what it throws is told and costs only itself. @returns what the work gave, or nothing */
export function guarded<T>(what: string, work: () => T, about?: string): T | undefined {
  try {
    return work();
  } catch (error) {
    trouble(what, error, about);
    return undefined;
  }
}

const isPromise = (value: unknown): value is PromiseLike<unknown> =>
  value !== null && typeof value === 'object' && typeof (value as { then?: unknown }).then === 'function';
