import { otherCommand } from './command-names.ts';
import type {
  ElementData,
  ElementKind,
  ElementState,
  EvidenceEvent,
  NetworkData,
  PageEvent,
  StepData,
  StepEvent,
  WindowEvent,
} from './event.ts';
import type { AttemptFacts } from './prepare.ts';

/** Small evidence for unit tests: events with everything that does not matter filled in. */

let count = 0;

export function step(at: number, until: number, data: Partial<StepData> & Pick<StepData, 'action'>): StepEvent {
  return {
    id: `e${++count}`,
    lane: 'step',
    kind: 'command',
    at,
    until,
    clock: 'recorder',
    data: { command: otherCommand, label: data.action, ...data },
  };
}

export const css = (value: string): { using: string; value: string } => ({ using: 'css selector', value });

export function element(
  at: number,
  kind: ElementKind,
  locator: string,
  state: Partial<ElementState> & Pick<ElementState, 'node'>,
  extra: Partial<ElementData> = {},
): EvidenceEvent {
  return {
    id: `e${++count}`,
    lane: 'element',
    kind,
    at,
    clock: 'page',
    data: { locator, label: state.name ?? '', state: { count: state.node === null ? 0 : 1, ...state }, ...extra },
  };
}

export function exchange(
  at: number,
  until: number,
  data: Partial<NetworkData> & Pick<NetworkData, 'url'>,
): EvidenceEvent {
  return {
    id: `e${++count}`,
    lane: 'network',
    kind: 'exchange',
    at,
    until,
    clock: 'browser',
    data: { request: `r${count}`, method: 'GET', host: 'ferry.test', own: true, status: 200, type: 'fetch', ...data },
  };
}

export const url = 'http://ferry.test';

export const press = (at: number, locator = '#go', more: Partial<StepData> = {}): StepEvent =>
  step(at, at + 10, { action: 'press', command: 'element click', locator: css(locator), ...more });

export const reads = (at: number, value: unknown, locator = '#out', more: Partial<StepData> = {}): StepEvent =>
  step(at, at + 6, {
    action: 'read',
    command: 'get text',
    subject: 'text',
    locator: css(locator),
    result: value,
    ...more,
  });

export const page = (at: number, kind: PageEvent['kind'], data: PageEvent['data']): PageEvent => ({
  id: `e${++count}`,
  lane: 'page',
  kind,
  at,
  clock: 'page',
  data,
});

export const windowEvent = (at: number, kind: WindowEvent['kind'], data: WindowEvent['data']): WindowEvent => ({
  id: `e${++count}`,
  lane: 'window',
  kind,
  at,
  clock: 'browser',
  data,
});

export function check(at: number, ok: boolean, expected: string, actual: string): EvidenceEvent {
  return {
    id: `e${++count}`,
    lane: 'note',
    kind: 'check',
    at,
    clock: 'recorder',
    data: { label: 'check', ok, expected, actual },
  };
}

export function line(at: number, text: string, level: 'error' | 'warning' | 'info' = 'info'): EvidenceEvent {
  return { id: `e${++count}`, lane: 'console', kind: 'line', at, clock: 'browser', data: { level, text } };
}

export const facts = (outcome: AttemptFacts['outcome'], message = '', stack = ''): AttemptFacts => ({
  outcome,
  message,
  stack,
  environment: { browser: 'chromium', version: '156' },
});

export const missing = { code: 'no such element', message: 'no such element: Unable to locate element' };
export const stale = { code: 'stale element reference', message: 'stale element reference: stale element not found' };
export const intercepted = {
  code: 'element click intercepted',
  message:
    'element click intercepted: Element <button id="hold">...</button> is not clickable at point (1150, 610). Other element would receive the click: <div id="notice" class="notice shown">...</div>\n  (Session info: chrome=156)',
};
