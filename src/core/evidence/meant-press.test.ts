import { expect, it } from 'vitest';
import { asMeant } from './meant-press.ts';
import { css, step } from './samples.ts';

const look = step(10, 12, {
  action: 'read',
  command: 'get element rect',
  subject: 'rect',
  locator: css('#hold'),
  result: { gone: true },
});

it.each([
  ['stale element reference: the element is no longer in the document', 'stale element reference'],
  ['element click intercepted: another element would take the press', 'element click intercepted'],
])('a look that was the last before “%s” was a press', (message, code) => {
  const { data } = asMeant(look, message);
  expect(data).toMatchObject({ action: 'press', command: 'element click', label: 'Press on “#hold”', error: { code } });
  expect(data.result).toBeUndefined();
});

it('any other failure leaves it a look, and what was answered with an error stays as it was answered', () => {
  expect(asMeant(look, 'expected 4 but got 5')).toBe(look);
  const refused = step(1, 2, { action: 'press', locator: css('#a'), error: { code: 'timeout', message: 'x' } });
  expect(asMeant(refused, 'stale element reference: gone')).toBe(refused);
});

it('what was asked of an element that is gone failed with it', () => {
  const read = step(1, 2, { action: 'script', locator: css('#a') });
  expect(asMeant(read, 'stale element reference: gone').data).toMatchObject({
    action: 'script',
    error: { code: 'stale element reference' },
  });
});

it('whatever was asked of the element last was for the act that the message speaks of', () => {
  const log =
    'handle.click: Timeout 400ms exceeded.\n - attempting click action\n - <div class="survey"></div> intercepts pointer events';
  for (const action of ['find', 'script', 'read'] as const)
    expect(asMeant(step(1, 2, { action, locator: css('#a'), input: 'f' }), log).data).toMatchObject({
      action: 'press',
      label: 'Press on “#a”',
      error: { code: 'element click intercepted' },
    });
  const [head, ...body] = log.split('\n');
  const found = step(1, 2, { action: 'find', command: 'find element', locator: css('#a') });
  expect(asMeant(found, head!, body.join('\n')).data.error?.code).toBe('element click intercepted');
  // It speaks of another element, or of typing.
  expect(asMeant(found, `${head}\n - waiting for locator('#b')\n - element is not visible`).data.action).toBe('find');
  expect(
    asMeant(found, 'locator.fill: Timeout 400ms exceeded.\n - element is not enabled\n - retrying').data,
  ).toMatchObject({
    action: 'type',
    error: { code: 'element not interactable' },
  });
});
