import type { RemoteEnd } from '../remote-end.ts';
import { elementKey } from './commands.ts';
import { ask, ownCommandMs } from './forward.ts';

/** What a field was found to hold. */
export interface FieldHeld {
  secret: boolean;
  value: string;
}

/** What a secret field is, to a page that no observer watches. */
const isSecret = `(el) => el.type === 'password' || /password|one-time-code|cc-csc/.test(el.autocomplete || '') ||
  (/^(?:text|tel|number|search)$/.test(el.type) && /pass(?:word|wd|code|phrase)|(?:^|[-_])(?:pwd|otp|cvv|cvc)(?:$|[-_])/i.test(el.id + ' ' + el.name))`;
const script = `const el = arguments[0];
  return [(${isSecret})(el), typeof el.value === 'string' ? el.value.slice(0, 400) : null];`;
const allScript = `const isSecret = ${isSecret};
  const fields = [...document.querySelectorAll('input')].slice(0, 2000).filter(isSecret).slice(0, 50);
  return [fields.map((el) => el.value), fields.includes(document.activeElement)];`;

/** What all secret fields of a page hold, and whether one of them has the focus. */
export interface SecretsHeld {
  values: string[];
  focused: boolean;
}

/** Asks the same browser what its secret fields hold, after a command that may have set one. */
export async function secretsHeld(driver: RemoteEnd, session: string): Promise<SecretsHeld | undefined> {
  if (await hasDialog(driver, session)) return undefined;
  const [values, focused] = await ask<[string[], boolean]>(driver, `/session/${session}/execute/sync`, {
    script: allScript,
    args: [],
  });
  return { values, focused };
}

async function hasDialog(driver: RemoteEnd, session: string): Promise<boolean> {
  const dialog = await driver.send('GET', `/session/${session}/alert/text`, {}, Buffer.alloc(0), ownCommandMs);
  return dialog.status !== 404;
}

/**
 * Asks a browser that tells nothing of itself what a field holds that was just typed into, between two commands
 * of the test. An open dialog is left alone: a question would close it, and the test would never meet it.
 * @returns undefined where nobody can know: a dialog is open, the field is gone, or holds no text
 */
export async function fieldHeld(driver: RemoteEnd, session: string, element: string): Promise<FieldHeld | undefined> {
  if (await hasDialog(driver, session)) return undefined;
  const [secret, value] = await ask<[boolean, string | null]>(driver, `/session/${session}/execute/sync`, {
    script,
    args: [{ [elementKey]: element }],
  });
  return value === null ? undefined : { secret, value };
}
