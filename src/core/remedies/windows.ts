import { plainPath } from '../contrast/sketch.ts';
import type { DrillLocator, Statement } from '../drill/drill.ts';
import { drillLocator } from '../drill/elements.ts';
import { bareAddress } from '../formats/address.ts';
import { quote, said, shorten } from '../evidence/labels.ts';
import { lookedAt, unknownFrame } from '../evidence/looked-at.ts';
import type { Evidence } from '../evidence/prepare.ts';
import type { Advice, Adviser } from './advice.ts';
import { onPage } from './asked.ts';
import { inPassing, sameStep, shownStep } from './case.ts';
import { waitUntil } from './change.ts';
import { newestWindow } from './taken.ts';
import { commandOf, momentAt, type Moment } from './told.ts';

/** Which window or frame to look at before the step. */
export const lookAtWindow: Adviser = (about) => {
  const { step, subject, failing } = about;
  if (!step) return [];
  const moment = momentAt(subject, step);
  const passing = sameStep(about, step, 'passing').map((one) => ({ one, where: whereOf(one) }));
  const others = passing.filter(({ where }) => where !== undefined);
  const words = new Set(others.map(({ where }) => where));
  const here = whereOf(moment);
  if (others.length && words.size === 1 && here !== others[0]!.where) {
    const same = sameStep(about, step, 'failing').filter((one) => whereOf(one) === others[0]!.where);
    return [
      {
        kind: 'window',
        text: `Before ${said(step.label)}, switch to ${others[0]!.where}`,
        because: `There it was done ${inPassing([others.length, others.length])}; here the test was looking at ${here ?? 'a window that had closed'}`,
        passing: [others.length, others.length],
        failing: [same.length, failing.length + 1],
        shown: [shownStep(moment), shownStep(others[0]!.one)],
        ...going(moment, others[0]!.one.told.evidence, contextOf(others[0]!.one), others[0]!.one.at),
      },
    ];
  }
  // Passing attempts looked at the same, or none is known: where the element stands tells.
  const stands = elsewhere(moment);
  if (!stands) return [];
  return [
    {
      kind: 'window',
      text: `Before ${said(step.label)}, switch to ${stands.where}`,
      because: `The element stands there; the test was looking at ${here ?? 'another one'}`,
      passing: null,
      failing: null,
      shown: [shownStep(moment), { attempt: subject.id, event: stands.event, at: stands.at }],
      ...going(moment, subject.evidence, stands.context, moment.at),
    },
  ];
};

/** Goes to a window before the step: the first one by its number, another as the newest, once it shows its page. */
function going({ step }: Moment, evidence: Evidence, context: string | undefined, at: number): Pick<Advice, 'change'> {
  const { window: windows } = evidence;
  const opened = windows.filter(({ kind }) => kind === 'opened');
  const place = opened.findIndex(({ data }) => data.context === context);
  const frame = place < 0 ? intoFrame(evidence, context, at) : [];
  if (frame.length) return { change: { at: step.events, change: { do: 'put before', statements: frame } } };
  if (context === undefined || place < 0) return {};
  const address = addressOf(evidence, context, at);
  const shows = address ? [waitUntil(onPage(plainPath(address)))] : [];
  const part = address && tellingPart(evidence, address, context);
  const statements: Statement[] =
    place === 0
      ? [{ do: 'to window', number: 1 }]
      : part
        ? [newestWindow[0]!, { do: 'to window at', address: part }]
        : [...newestWindow, ...shows];
  return { change: { at: step.events, change: { do: 'put before', statements } } };
}

/** Of an address the part that does not vary, where no other window's has it: the newest window may be another. */
function tellingPart({ window: windows, page }: Evidence, address: string, context: string): string | undefined {
  const part = plainPath(address).split('#')[0]!;
  const others = [...windows, ...page].filter(({ data }) => data.context !== undefined && data.context !== context);
  if (part.length < shortestPart || others.some(({ data }) => data.address?.includes(part))) return undefined;
  return part;
}
const shortestPart = 4;

/** How the attempt that looked at a frame came there: its last switches before the moment, from the top. */
function intoFrame(evidence: Evidence, context: string | undefined, at: number): Statement[] {
  if (context === undefined) return [];
  const switches = evidence.steps.filter((one) => one.at < at && one.data.action === 'frame' && !one.data.error);
  const last = switches.at(-1);
  const named = last?.data.locator && drillLocator(last.data.locator);
  const target = named ?? (last?.data.number === undefined ? undefined : frameAt(addressOf(evidence, context, at)));
  if (!target) return [];
  const frame = { locator: target };
  return [
    { do: 'to frame', where: 'top' },
    waitUntil({ kind: 'there', target: frame }),
    { do: 'to frame', target: frame },
  ];
}

/** A frame that was told by its number, by what it holds: another may have come to stand before it. */
function frameAt(address: string | undefined): DrillLocator | undefined {
  const path = address && bareAddress(address.replace(/^[a-z-]+:\/\/[^/]+/i, ''));
  if (!path || path.length < shortestPart || /['"\\]/.test(path)) return undefined;
  return { by: 'css', value: `iframe[src*='${path}']` };
}

/** The window or frame that a step spoke to, by the address it showed. */
function whereOf({ told, step, at }: Moment): string | undefined {
  const context = contextOf({ told, step, at });
  return context === undefined ? undefined : nameOf(told.evidence, context, at);
}

function contextOf({ told, step }: Moment): string | undefined {
  const command = commandOf(told, step);
  return command && lookedAt(told.evidence, command);
}

function nameOf(evidence: Evidence, context: string, at: number): string {
  if (context === unknownFrame) return unknownFrame;
  const { window: windows } = evidence;
  const isWindow = windows.some((one) => one.kind === 'opened' && one.data.context === context);
  const path = addressOf(evidence, context, at);
  return `the ${isWindow ? 'window' : 'frame'} ${path ? `at ${quote(shorten(plainPath(path), 40))}` : 'that opened with it'}`;
}

function addressOf({ page, window: windows }: Evidence, context: string, at: number): string | undefined {
  const address = page.findLast((one) => one.at <= at && one.data.context === context && one.data.address !== undefined)
    ?.data.address;
  return address ?? windows.find((one) => one.kind === 'opened' && one.data.context === context)?.data.address;
}

function elsewhere(moment: Moment) {
  const { told, step, at } = moment;
  const { evidence } = told;
  const own = contextOf(moment);
  const line = step.locator === undefined ? undefined : evidence.lifelines.get(step.locator);
  const there = line?.segments.find(
    (one) => one.state.node !== null && one.context !== undefined && one.context !== own,
  );
  if (there)
    return { where: nameOf(evidence, there.context!, at), context: there.context, event: there.event, at: there.from };
  const { window: windows } = evidence;
  const other = windows.findLast((one) => one.kind === 'opened' && one.data.context !== own && one.at <= at);
  return other && windows.filter((one) => one.kind === 'opened').length > 1
    ? { where: nameOf(evidence, other.data.context, at), context: other.data.context, event: other.id, at: other.at }
    : undefined;
}
