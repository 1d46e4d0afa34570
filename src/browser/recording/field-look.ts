import type { RemoteEnd } from '../remote-end.ts';
import { elementKey } from './commands.ts';
import { ask, ownCommandMs } from './forward.ts';

/** What a field was found to hold. */
export interface FieldHeld {
  secret: boolean;
  value: string;
}

const script = `const el = arguments[0];
  const called = /pass(?:word|wd|code|phrase)|(?:^|[-_])(?:pwd|otp|cvv|cvc)(?:$|[-_])/i;
  return [el.type === 'password' || /password|one-time-code|cc-csc/.test(el.autocomplete || '') || (/^(?:text|tel|number|search)$/.test(el.type) && called.test(el.id + ' ' + el.name)), typeof el.value === 'string' ? el.value.slice(0, 400) : null];`;

/**
 * Asks a browser that tells nothing of itself what a field holds that was just typed into, between two commands
 * of the test. An open dialog is left alone: a question would close it, and the test would never meet it.
 * @returns undefined where nobody can know: a dialog is open, the field is gone, or holds no text
 */
export async function fieldHeld(driver: RemoteEnd, session: string, element: string): Promise<FieldHeld | undefined> {
  const dialog = await driver.send('GET', `/session/${session}/alert/text`, {}, Buffer.alloc(0), ownCommandMs);
  if (dialog.status !== 404) return undefined;
  const [secret, value] = await ask<[boolean, string | null]>(driver, `/session/${session}/execute/sync`, {
    script,
    args: [{ [elementKey]: element }],
  });
  return value === null ? undefined : { secret, value };
}
