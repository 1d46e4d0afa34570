import { keysNamed } from '../../core/evidence/keys.ts';
import type { ObserverRecord } from '../observer/source.ts';
import { elementKey } from '../recording/commands.ts';
import { answerOf, bytes } from '../recording/wire-answer.ts';
import type { ClientStep } from './client-step.ts';

export type Scripted = Extract<ObserverRecord, { k: 'scripted' }>;

/** Keys as pages call them that WebDriver has under other names. */
const calledOtherwise: Readonly<Record<string, string>> = {
  ArrowUp: 'Arrow up',
  ArrowDown: 'Arrow down',
  ArrowLeft: 'Arrow left',
  ArrowRight: 'Arrow right',
  PageUp: 'Page up',
  PageDown: 'Page down',
};
/** A script that presses or sets something in a page. */
const acting = /\.click\(|dispatchEvent|\.value\s{0,4}=/;
const longestLooked = 20_000;
const briefMs = 1000;
const mostOfClient = 50;
/** The page's clock and ours agree to within this, ms. */
const clockMs = 10;

/**
 * What tests inside a page do to it, as the commands of WebDriver that would have done it: presses, what fields were given,
 * keys. A document that they act on for the first time was opened for them.
 */
export class ScriptedSteps {
  private count = 0;
  /** By window or frame, when the document began that was acted on last. */
  private readonly opened = new Map<string, number>();
  private typing: { record: Scripted; context: string; until: number; element: string | undefined } | undefined;

  /** When scripts that the client sent acted on a page: what they dispatched is told by them. */
  private readonly ofClient: { at: number; until: number }[] = [];

  /** @param opens whether a document that is acted on for the first time was opened for that */
  constructor(
    private readonly step: (step: ClientStep) => void,
    private readonly opens = true,
  ) {}

  /** A step of the client's own. */
  beside({ path, body, at, until }: ClientStep): void {
    // One that goes on for long runs tests in the page itself.
    if (!path.startsWith('/execute') || until - at > briefMs || !acting.test(body.toString('utf8', 0, longestLooked)))
      return;
    this.ofClient.push({ at, until });
    if (this.ofClient.length > mostOfClient) this.ofClient.shift();
  }

  /** @param element the client's name of it, where it is known which it is */
  take(record: Scripted, context: string, element?: string): void {
    if (this.ofClient.some(({ at, until }) => record.t >= at - clockMs && record.t <= until + clockMs)) return;
    const { typing } = this;
    if (record.e === 'input' || record.e === 'change') {
      if (typing && (typing.context !== context || typing.record.s !== record.s)) this.over();
      this.typing =
        this.typing === undefined
          ? { record, context, until: record.t, element }
          : { ...this.typing, record: { ...record, t: this.typing.record.t }, until: record.t };
      return;
    }
    this.over();
    if (record.e === 'click') this.onElement(record, context, 'click', {}, element);
    else {
      const keys = keysNamed(calledOtherwise[record.v ?? ''] ?? record.v ?? '');
      if (typeof keys === 'string') this.onElement(record, context, 'value', { text: keys }, element);
    }
  }

  /** What was being typed is typed. */
  over(): void {
    const { typing } = this;
    this.typing = undefined;
    if (!typing) return;
    const { record, context, until, element } = typing;
    if (element === undefined) this.onElement(record, context, 'clear', {}, element);
    this.onElement(record, context, 'value', { text: record.v ?? '' }, element, until);
  }

  private onElement(
    { s: value, t: at, u: url, n: began, o: fromAround }: Scripted,
    context: string,
    what: string,
    body: object,
    element: string | undefined,
    until = at,
  ): void {
    const say = (path: string, sent: object, answer: unknown, end = at): void =>
      this.step({
        target: context,
        method: 'POST',
        path,
        body: bytes(sent),
        answer: answerOf(answer),
        at,
        until: end,
      });
    const before = this.opened.get(context);
    // From one document to the next the application goes by itself, where nobody around it opened that.
    if (this.opens && (before === undefined || (before !== began && fromAround))) say('/url', { url }, null);
    this.opened.set(context, began);
    const id = element ?? `scripted-${++this.count}`;
    if (element === undefined) say('/element', { using: 'css selector', value }, { [elementKey]: id });
    say(`/element/${id}/${what}`, body, null, Math.max(at, until));
  }
}
