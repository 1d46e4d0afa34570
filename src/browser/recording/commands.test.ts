import { expect, it } from 'vitest';
import { readCommand } from './commands.ts';

it.each([
  ['POST', '/url', 'navigate to', 'open', undefined],
  ['GET', '/title', 'get title', 'read', undefined],
  ['POST', '/element', 'find element', 'find', undefined],
  ['POST', '/elements', 'find elements', 'find', undefined],
  ['POST', '/element/e1/element', 'find element from element', 'find', 'e1'],
  ['POST', '/shadow/s1/elements', 'find elements from shadow root', 'find', 's1'],
  ['GET', '/element/active', 'get active element', 'find', undefined],
  ['POST', '/element/e1/click', 'element click', 'press', 'e1'],
  ['POST', '/element/e1/value', 'element send keys', 'type', 'e1'],
  ['POST', '/element/e1/clear', 'element clear', 'clear', 'e1'],
  ['GET', '/element/e1/text', 'get text', 'read', 'e1'],
  ['GET', '/element/e1/screenshot', 'take element screenshot', 'picture', 'e1'],
  ['POST', '/execute/sync', 'execute script', 'script', undefined],
  ['POST', '/alert/accept', 'accept alert', 'dialog', undefined],
  ['DELETE', '/window', 'close window', 'window', undefined],
  ['DELETE', '', 'delete session', 'other', undefined],
])('%s %s is “%s”', (method, path, name, action, element) => {
  const call = readCommand(method, path);
  expect(call.command).toMatchObject({ name, action });
  expect(call.element).toBe(element);
});

it('takes the key of an attribute, decoded, and tells what is read', () => {
  expect(readCommand('GET', '/element/e1/attribute/data%2Dx')).toMatchObject({
    key: 'data-x',
    command: { subject: 'attribute' },
  });
  expect(readCommand('GET', '/element/e1/css/%E0%A4%A')).toMatchObject({ key: '%E0%A4%A' });
});

it('names what it does not know by method and path', () => {
  expect(readCommand('POST', '/goog/cdp/execute').command).toMatchObject({
    name: 'another command',
    subject: 'POST /goog/cdp/execute',
    action: 'other',
  });
});
