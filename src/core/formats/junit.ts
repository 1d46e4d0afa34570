import type { SaxesTagPlain } from 'saxes';
import type { ReportedOutcome } from '../evidence/attempt.ts';
import { attachmentsIn, capped, mostMessage, mostOutput, Tries, type ReportCase, type Trouble } from './report.ts';
import { ReportXml } from './report-xml.ts';
import { timeOf, zoneTold } from './times.ts';

/**
 * JUnit XML as its many producers write it, read as a stream: `write` takes text as it comes, each
 * finished case goes to `found`. The format has no single standard; what is read is what producers
 * agree on, and the markers for reruns (`flakyFailure`, `rerunFailure`, an attribute or property
 * `retry`/`attempt`, or the same case told again).
 *
 * No entity is expanded but the five of XML and character references; a document type is skipped unread.
 */

interface Suite {
  name: string;
  file?: string;
  host?: string;
  /** Epoch ms at which the next case begins, while that can be added up. */
  clock?: number;
  /** The zone that clock was told in; null where it named none. */
  zone?: number | null;
  properties: Record<string, string>;
  package?: string;
}

interface Fault {
  kind: string;
  message: string;
  type: string;
  text: string;
  /** Text of child elements, by name. */
  parts: Record<string, string>;
}

interface Open {
  attributes: Record<string, string>;
  faults: Fault[];
  output: string;
  errorOutput: string;
  properties: Record<string, string>;
  skipped?: string;
  /** The case it lies in, where a producer nests them. */
  within?: Open;
}

const faultTags = new Set(['failure', 'error', 'flakyFailure', 'flakyError', 'rerunFailure', 'rerunError']);
const genericNames = /^(?:|tests?|pytest|xunit|root suite|all ?tests?|.* tests|undefined|\(root\))$/i;
const deepest = 200;

export interface JunitOptions {
  /** Minutes east of UTC of times written without a zone. */
  zoneMinutes?: number;
}

export class JunitReader {
  private readonly xml = new ReportXml({
    opened: (tag) => this.opened(tag),
    closed: (name) => this.closed(name),
    took: (text) => this.took(text),
  });
  readonly problems: Trouble[] = this.xml.problems;
  /** Cases found so far. */
  count = 0;
  private readonly suites: Suite[] = [];
  private readonly tries = new Tries();
  private open: Open | undefined;
  private fault: Fault | undefined;
  private property: { into: Record<string, string>; name: string } | undefined;
  /** Where text goes at the moment. */
  private text: string[] = [];
  private textLength = 0;
  private collecting = 0;
  private depth = 0;
  private sawRoot = false;

  constructor(
    private readonly found: (one: ReportCase) => void,
    private readonly options: JunitOptions = {},
  ) {}

  /** @throws Error when one piece of text between two tags is longer than any report has use for */
  write(text: string): void {
    this.xml.write(text);
  }

  /** Ends the document; a case that was open when the text broke off is told as a problem, the ones before it are kept. */
  close(): void {
    if (this.open) {
      this.problems.push({
        line: this.xml.line,
        message: `the file ends inside the case “${this.open.attributes.name ?? ''}”; the cases before it were read`,
      });
      this.open = undefined;
    }
    this.xml.close();
    if (!this.sawRoot) this.problems.push({ line: 1, message: 'there is no testsuite in this file' });
  }

  private took(text: string): void {
    if (!this.collecting || this.textLength > 2 * mostOutput) return;
    this.text.push(text);
    this.textLength += text.length;
  }

  private collect(): void {
    this.collecting++;
    this.text = [];
    this.textLength = 0;
  }

  private collected(): string {
    this.collecting = 0;
    const text = this.text.join('');
    this.text = [];
    this.textLength = 0;
    return text;
  }

  private opened(tag: SaxesTagPlain): void {
    if (++this.depth > deepest) {
      if (this.depth === deepest + 1)
        this.problems.push({
          line: this.xml.line,
          message: `elements lie more than ${deepest} deep; those were passed over`,
        });
      return;
    }
    const { name, attributes } = tag;
    if (name === 'testsuites' || name === 'testsuite') {
      this.sawRoot = true;
      // The outermost name is the report's, not a suite's.
      this.suites.push(this.suiteOf(name === 'testsuites' ? { ...attributes, name: '' } : attributes));
    } else if (name === 'testcase') {
      this.open = {
        attributes,
        faults: [],
        output: '',
        errorOutput: '',
        properties: {},
        ...(this.open ? { within: this.open } : {}),
      };
    } else if (faultTags.has(name)) {
      this.fault = { kind: name, message: attributes.message ?? '', type: attributes.type ?? '', text: '', parts: {} };
      this.collect();
    } else if (name === 'skipped' || name === 'disabled') {
      if (this.open) this.open.skipped = attributes.message ?? '';
      this.collect();
    } else if (name === 'property') {
      const into = this.open?.properties ?? this.suites.at(-1)?.properties;
      this.property = undefined;
      if (into && Object.keys(into).length < 500) {
        into[attributes.name ?? ''] = attributes.value ?? '';
        // Some write the value as the element's text.
        if (attributes.value === undefined) {
          this.property = { into, name: attributes.name ?? '' };
          this.collect();
        }
      }
    } else if (name === 'attachment' && this.open) {
      const path = attributes.path ?? attributes.src ?? attributes.name;
      if (path) this.open.properties[`attachment:${Object.keys(this.open.properties).length}`] = path;
    } else if (name === 'system-out' || name === 'system-err' || (this.fault && name === 'stackTrace')) {
      if (this.fault) this.fault.text += this.collected();
      this.collect();
    }
  }

  private closed(name: string): void {
    if (this.depth-- > deepest) return;
    if (name === 'testsuites' || name === 'testsuite') {
      const suite = this.suites.pop();
      const outer = this.suites.at(-1);
      if (suite?.clock !== undefined && outer) outer.clock = Math.max(outer.clock ?? 0, suite.clock);
    } else if (name === 'property') {
      if (this.property) this.property.into[this.property.name] = this.collected().trim();
      this.property = undefined;
    } else if (name === 'system-out' || name === 'system-err' || name === 'stackTrace') {
      const text = this.collected();
      if (this.fault) {
        this.fault.parts[name] = (this.fault.parts[name] ?? '') + text;
        this.collect();
      } else if (this.open) {
        const key = name === 'system-out' ? 'output' : 'errorOutput';

        this.open[key] = capped(this.open[key] + text.replace(/\x1b\[[0-9;]*m/g, ''), mostOutput);
      }
    } else if (faultTags.has(name) && this.fault) {
      this.fault.text += this.collected();
      if (this.open) this.open.faults.push(this.fault);
      // An error of a whole suite belongs to no case; it is told, not lost.
      else this.suiteTrouble(this.fault);
      this.fault = undefined;
    } else if (name === 'skipped' || name === 'disabled') {
      const text = this.collected().trim();
      if (this.open && text && !this.open.skipped) this.open.skipped = text;
    } else if (name === 'testcase' && this.open) {
      this.finish(this.open);
      this.open = this.open.within;
    }
  }

  private suiteTrouble(fault: Fault): void {
    const { message } = textsOf(fault);
    this.xml.trouble(
      `the suite “${this.suites.at(-1)?.name ?? ''}” tells a ${fault.kind} of its own: ${message.slice(0, 300)}`,
    );
  }

  private suiteOf(attributes: Record<string, string>): Suite {
    const outer = this.suites.at(-1);
    const told = sensible(timeOf(attributes.timestamp, this.options.zoneMinutes));
    return {
      name: attributes.name ?? '',
      file: attributes.file ?? attributes.filepath ?? outer?.file,
      host: attributes.hostname ?? outer?.host,
      clock: told ?? outer?.clock,
      ...(told === undefined ? { zone: outer?.zone } : { zone: zoneTold(attributes.timestamp!) ?? null }),
      package: attributes.package,
      properties: { ...outer?.properties },
    };
  }

  private finish(open: Open): void {
    const { attributes } = open;
    const suite = this.suites.at(-1);
    const durationMs = secondsOf(attributes.time ?? attributes.duration);
    const stamp = attributes.timestamp ?? attributes['started-at'];
    const told = sensible(timeOf(stamp, this.options.zoneMinutes));
    const zone = told === undefined ? suite?.zone : (zoneTold(stamp!) ?? null);
    const properties = { ...suite?.properties, ...open.properties };
    const around: string[] = [];
    for (let outer = open.within; outer; outer = outer.within) around.unshift(outer.attributes.name ?? '');
    const suiteName = [this.suiteName(attributes.classname ?? attributes.class), ...around].filter(Boolean).join(' / ');
    // Some producers number the titles; the number changes whenever a test is added before it.
    const name = (attributes.name ?? '').replace(/^\d+ - (?=\S{3}|\S+\s)/, '') || '(without a name)';
    const host = suite?.host;
    const base = {
      suite: suiteName,
      ...((attributes.file ?? suite?.file) ? { file: attributes.file ?? suite?.file } : {}),
      properties,
      ...(host ? { host } : {}),
      ...((properties.worker ?? attributes.worker) ? { worker: properties.worker ?? attributes.worker } : {}),
    };
    const browser = properties.browser ?? properties.browserName ?? properties.environment ?? '';
    const keyOf = (title: string): string =>
      `${browser}\n${this.suites.map((one) => one.name).join('\n')}\n${suiteName}\n${title}\n${host ?? ''}`;
    const afterwards = this.isAfterwards(open, keyOf(name));
    this.lastKey = keyOf(name);
    const title = afterwards ? `${name} (teardown)` : name;
    const key = keyOf(title);
    const startedAt = told ?? suite?.clock;
    const listed = Object.entries(open.properties)
      .filter(([name]) => /^attachment/i.test(name))
      .map(([, value]) => value);
    const give = (
      outcome: ReportedOutcome,
      fault: Fault | undefined,
      output: string,
      errorOutput: string,
      duration: number | undefined,
    ): void => {
      const number = this.tries.next(key);
      this.count++;
      const { message, stack } = textsOf(fault);
      this.found({
        ...base,
        title,
        outcome,
        message: outcome === 'skipped' ? [open.skipped, message].filter(Boolean).join('\n') : message,
        stack,
        number,
        ...(duration === undefined ? {} : { durationMs: duration }),
        ...(startedAt === undefined
          ? {}
          : {
              startedAt,
              startTold: told === undefined ? 'summed' : 'told',
              ...(zone === undefined ? {} : { zone }),
            }),
        output,
        errorOutput,
        attachments: [...new Set([...listed, ...attachmentsIn(output), ...attachmentsIn(errorOutput)])],
      });
    };
    const flaky = open.faults.filter((fault) => fault.kind.startsWith('flaky'));
    const rerun = open.faults.filter((fault) => fault.kind.startsWith('rerun'));
    const own = open.faults.filter((fault) => fault.kind === 'failure' || fault.kind === 'error');
    const giveFault = (fault: Fault): void =>
      give(
        /error$/i.test(fault.kind) ? 'errored' : 'failed',
        fault,
        fault.parts['system-out'] ?? '',
        fault.parts['system-err'] ?? '',
        durationMs,
      );
    // Tries that failed before a pass; then the case itself; then, for one that never passed, its further tries.
    for (const fault of flaky) giveFault(fault);
    if (own.length && open.skipped !== undefined) give('skipped', own[0], open.output, open.errorOutput, durationMs);
    else if (own.length) {
      const [first, ...more] = own;
      // Several failures told of one try are one failure with more to say.
      const whole: Fault = {
        ...first!,
        text: [first!.text, ...more.map((f) => `${f.message}\n${f.text}`)].join('\n\n').trim(),
      };
      give(whole.kind === 'error' ? 'errored' : 'failed', whole, open.output, open.errorOutput, durationMs);
    } else {
      const status = (attributes.status ?? attributes.result ?? '').toLowerCase();
      const passed: ReportedOutcome =
        open.skipped !== undefined || /^(skipped|notrun|disabled|ignored|suppressed|pending)$/.test(status)
          ? 'skipped'
          : /^(failed|failure)$/.test(status)
            ? 'failed'
            : /^(errored|error|broken)$/.test(status)
              ? 'errored'
              : 'passed';
      give(passed, undefined, open.output, open.errorOutput, durationMs);
    }
    for (const fault of rerun) giveFault(fault);
    if (suite && suite.clock !== undefined && told === undefined) suite.clock += durationMs ?? 0;
  }

  /**
   * What failed as a test was taken down is told by some as a second case of its name, counted as an error beside the
   * test’s own failure: no further try of it.
   */
  private isAfterwards({ faults, skipped }: Open, key: string): boolean {
    const [fault] = faults;
    return (
      key === this.lastKey &&
      skipped === undefined &&
      faults.length === 1 &&
      fault!.kind === 'error' &&
      /^(?:failed|error) (?:on|at|in|during) (?:the )?(?:teardown|tear down|cleanup)/i.test(textsOf(fault).message)
    );
  }
  private lastKey = '';

  /** Names of the suites around a case and its class, without what says nothing and without saying a thing twice. */
  private suiteName(classname: string | undefined): string {
    const names = this.suites.map((one) => one.name.trim()).filter((name) => !genericNames.test(name));
    const last = classname?.trim();
    if (last && !genericNames.test(last)) {
      if (names.length === 0) return last;
      const joined = names.join(' / ');
      if (joined === last || joined.endsWith(` / ${last}`) || joined.endsWith(`.${last}`)) return joined;
      if (last.startsWith(joined) || last.endsWith(joined)) return last;
      return `${joined} / ${last}`;
    }
    return names.join(' / ');
  }
}

/** Message and stack of a fault: the message is the attribute, or what the text says before its first frame. */
function textsOf(fault: Fault | undefined): { message: string; stack: string } {
  if (!fault) return { message: '', stack: '' };
  const stack = (fault.parts.stackTrace ?? fault.text).trim();
  let message = fault.message.trim();
  if (!message) message = stack.split(/\n[ \t]{0,100}(?:at\s|File "|#\d+\s)/)[0]!.trim();
  if (!message) message = fault.type;
  return { message: capped(message, mostMessage), stack: capped(stack, mostMessage) };
}

/** A test that was never started is given the epoch by some; nothing ran before this century. */
const sensible = (time: number | undefined): number | undefined =>
  time !== undefined && time > 946_684_800_000 ? time : undefined;

/** Seconds as producers write them (`0.12`, `1,234.5`, `2.1s`), as ms. */
function secondsOf(text: string | undefined): number | undefined {
  if (!text) return undefined;
  const value = Number(text.replaceAll(',', '').replace(/s$/, ''));
  return Number.isFinite(value) && value >= 0 ? value * 1000 : undefined;
}
