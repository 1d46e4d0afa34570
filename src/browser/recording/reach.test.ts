import { describe, expect, it } from 'vitest';
import { refusesAddress, refusesCommand, refusesMessage } from './reach.ts';

describe('addresses', () => {
  it.each([
    'http://a.test/',
    'https://a.test',
    'data:text/html,x',
    'about:blank',
    'about:srcdoc',
    'no address',
    7,
    null,
  ])('opens %s, or leaves it to the browser', (address) => expect(refusesAddress(address)).toBeUndefined());
  it.each([
    'file:///etc/passwd',
    '  FILE:///etc/passwd',
    'fi\nle:///etc/passwd',
    'chrome://settings',
    'about:settings',
    'view-source:file:///etc/passwd',
    'devtools://devtools',
    'filesystem:http://a/b',
  ])('does not open %j', (address) => expect(refusesAddress(address)).toContain('ISKEL_LAUNCH=any'));
});

describe('commands', () => {
  it.each([
    ['POST', '/url', { url: 'http://a.test' }],
    ['POST', '/goog/cdp/execute', { cmd: 'Network.enable', params: {} }],
    ['POST', '/goog/cdp/execute', { cmd: 'Page.navigate', params: { url: 'http://a.test' } }],
    ['POST', '/chromium/network_conditions', undefined],
    ['POST', '/goog/cdp/execute', { cmd: 'Input.dispatchDragEvent', params: { data: { items: [], files: [] } } }],
    ['GET', '/title', undefined],
    ['POST', '/nonesuch', undefined],
  ])('%s %s %j is done', (method, tail, body) => expect(refusesCommand(method, tail, body)).toBeUndefined());
  it.each([
    ['POST', '/url', { url: 'file:///etc/passwd' }],
    ['POST', '/url', undefined],
    ['POST', '/goog/cdp/execute', { cmd: 'Input.dispatchDragEvent', params: { data: { files: ['/etc/passwd'] } } }],
    ['POST', '/goog/cdp/execute', { cmd: 'Input.dispatchDragEvent', params: { data: { files: '/etc' } } }],
    ['POST', '/goog/cdp/execute', { cmd: 'Browser.setDownloadBehavior', params: {} }],
    ['POST', '/goog/cdp/execute', { cmd: 'Page.navigate', params: { url: 'file:///etc' } }],
    ['POST', '/goog/cdp/execute', { cmd: 'Target.createTarget', params: { url: 'file:///etc' } }],
    ['POST', '/goog/cdp/execute', { cmd: 'DOM.setFileInputFiles' }],
    ['POST', '/goog/cdp/execute', { cmd: { toString: 1 } }],
    ['POST', '/goog/cdp/execute', undefined],
    ['POST', '/chromium/send_command_and_get_result', { cmd: 'Extensions.loadUnpacked' }],
    ['POST', '/goog/anything/new', {}],
    ['POST', '/GOOG/cdp/execute', {}],
  ])('%s %s %j is not done', (method, tail, body) =>
    expect(refusesCommand(method, tail, body as Record<string, unknown>)).toBeTypeOf('string'),
  );
});

describe('messages of a BiDi socket', () => {
  it.each([
    { id: 1, method: 'browsingContext.navigate', params: { url: 'https://a.test' } },
    { id: 1, method: 'session.subscribe', params: { events: [] } },
    {
      id: 1,
      method: 'goog:cdp.sendCommand',
      params: { method: 'Emulation.setCPUThrottlingRate', params: { rate: 4 } },
    },
    { id: 1 },
  ])('%j is passed on', (message) => expect(refusesMessage(JSON.stringify(message))).toBeUndefined());
  it.each([
    { id: 1, method: 'browsingContext.navigate', params: { url: 'file:///etc/passwd' } },
    { id: 2, method: 'browser.setDownloadBehavior', params: {} },
    { id: 3, method: 'goog:cdp.sendCommand', params: { method: 'Target.createTarget' } },
    { id: 4, method: 'cdp.sendCommand', params: null },
    { id: 5, method: 'webExtension.install', params: {} },
  ])('%j is not', (message) => expect(refusesMessage(JSON.stringify(message))).toMatchObject({ id: message.id }));
  it('does not pass on what it cannot read, since another reader might', () => {
    expect(refusesMessage('{"method":"browser.setDownloadBehavior"/**/}')).toMatchObject({ id: null });
    expect(refusesMessage('null')).toMatchObject({ id: null });
    expect(refusesMessage('{"id":1e400,"method":"webExtension.install"}')).toMatchObject({ id: null });
  });
});
