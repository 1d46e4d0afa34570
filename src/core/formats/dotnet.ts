import type { SaxesTagPlain } from 'saxes';
import type { ReportedOutcome } from '../evidence/attempt.ts';
import { attachmentsIn, capped, mostMessage, mostOutput, Tries, type ReportCase, type Trouble } from './report.ts';
import { ReportXml } from './report-xml.ts';
import { timeOf, zoneTold } from './times.ts';

/**
 * Result files of the usual .NET unit-test runners, read as a stream: TRX (`TestRun`), NUnit 3 (`test-run`) and xUnit.net 2
 * and 3 (`assemblies`). After their published schemas. Data-driven tests are cases of their own, as each of the three has it;
 * an ordered or data-driven result of TRX that only sums its inner ones up is none.
 */
export interface DotnetOptions {
  /** Minutes east of UTC of times written without a zone. */
  zoneMinutes?: number;
}

/** The roots such files have. */
export const dotnetRoot = /<(?:TestRun|test-run|assemblies|assembly)[\s>]/;

const deepest = 200;
/** Results of TRX wait for their classes, which stand at the end of the file; more than these go without. */
const mostWaiting = 200_000;

interface Open {
  tag: string;
  attributes: Record<string, string>;
  message: string;
  stack: string;
  output: string;
  errorOutput: string;
  attachments: string[];
  properties: Record<string, string>;
  failed: boolean;
  inner: boolean;
}

const outcomes: Record<string, ReportedOutcome> = {
  passed: 'passed',
  pass: 'passed',
  passedbutrunaborted: 'passed',
  warning: 'passed',
  completed: 'passed',
  failed: 'failed',
  fail: 'failed',
  error: 'errored',
  timeout: 'errored',
  aborted: 'errored',
  disconnected: 'errored',
  notexecuted: 'skipped',
  notrunnable: 'skipped',
  notrun: 'skipped',
  skipped: 'skipped',
  skip: 'skipped',
  inconclusive: 'skipped',
  pending: 'skipped',
};

/** What text is collected for, by the element it stands in. */
const collects = new Set([
  'Message',
  'StackTrace',
  'StdOut',
  'StdErr',
  'message',
  'stack-trace',
  'output',
  'filePath',
  'reason',
]);

export class DotnetReader {
  private readonly xml = new ReportXml({
    opened: (tag) => this.opened(tag),
    closed: (name) => this.closed(name),
    took: (text) => this.took(text),
  });
  readonly problems: Trouble[] = this.xml.problems;
  count = 0;
  private readonly stack: string[] = [];
  private readonly cases: Open[] = [];
  private readonly suites: { name: string; attributes: Record<string, string> }[] = [];
  private readonly tries = new Tries();
  private readonly waiting: { testId: string; one: ReportCase }[] = [];
  private readonly classes = new Map<string, string>();
  private definition = '';
  private text: string[] = [];
  private textLength = 0;
  /** When the run or assembly began, where cases tell no time of their own. */
  private clock: number | undefined;
  private clockZone: number | null = null;
  /** A suite whose own set-up or take-down failed. */
  private suiteFault: string | undefined;

  constructor(
    private readonly found: (one: ReportCase) => void,
    private readonly options: DotnetOptions = {},
  ) {}

  /** @throws Error when one piece of text between two tags is longer than any report has use for */
  write(text: string): void {
    this.xml.write(text);
  }

  close(): void {
    if (this.cases.length)
      this.problems.push({
        line: this.xml.line,
        message: `the file ends inside the case “${nameOf(this.cases[0]!)}”; the cases before it were read`,
      });
    this.cases.length = 0;
    this.xml.close();
    for (const { testId, one } of this.waiting.splice(0))
      this.give({ ...one, suite: this.classes.get(testId) ?? one.suite });
  }

  private took(text: string): void {
    if (!collects.has(this.stack.at(-1) ?? '') || this.textLength > 2 * mostOutput) return;
    this.text.push(text);
    this.textLength += text.length;
  }

  private opened({ name, attributes }: SaxesTagPlain): void {
    this.stack.push(name);
    if (this.stack.length > deepest) return;
    if (collects.has(name)) {
      this.text = [];
      this.textLength = 0;
    }
    switch (name) {
      case 'Times':
        this.began(attributes.start ?? attributes.creation);
        break;
      case 'test-run':
        this.began(attributes['start-time']);
        break;
      case 'assembly':
        this.suites.push({ name: '', attributes });
        this.began(
          attributes['start-rtf'] ??
            (attributes['run-date'] ? `${attributes['run-date']}T${attributes['run-time'] ?? '00:00:00'}` : undefined),
        );
        break;
      case 'test-suite':
        this.suites.push({ name: attributes.name ?? '', attributes });
        break;
      case 'UnitTestResult':
      case 'test-case':
      case 'test': {
        const outer = this.cases.at(-1);
        if (outer) outer.inner = true;
        this.cases.push({
          tag: name,
          attributes,
          message: '',
          stack: '',
          output: '',
          errorOutput: '',
          attachments: [],
          properties: {},
          failed: false,
          inner: false,
        });
        break;
      }
      case 'failure':
        if (this.cases.length) this.cases.at(-1)!.failed = true;
        break;
      case 'ResultFile':
        if (attributes.path) this.cases.at(-1)?.attachments.push(attributes.path);
        break;
      case 'property':
      case 'trait': {
        const into = this.cases.at(-1)?.properties;
        if (into && attributes.name && Object.keys(into).length < 200) into[attributes.name] = attributes.value ?? '';
        break;
      }
      case 'UnitTest':
        this.definition = attributes.id ?? '';
        break;
      case 'TestMethod':
        // `Ferry.Counter, Ferry.Tests, Version=…` names the class before its assembly.
        if (attributes.className) this.classes.set(this.definition, attributes.className.split(',')[0]!.trim());
        break;
      default:
    }
  }

  private closed(name: string): void {
    const depth = this.stack.length;
    this.stack.pop();
    if (depth > deepest) return;
    const one = this.cases.at(-1);
    if (collects.has(name)) this.collected(name, this.text.join(''), one);
    if (name === 'UnitTestResult' || name === 'test-case' || name === 'test') {
      if (!one || one.tag !== name) return;
      this.cases.pop();
      if (!one.inner) this.finish(one);
      else this.passOn(one);
    } else if (name === 'test-suite' || name === 'assembly') {
      const suite = this.suites.pop();
      if (this.suiteFault && suite && /SetUp|TearDown/.test(suite.attributes.site ?? '')) this.tellSuite(suite);
      this.suiteFault = undefined;
    } else if (name === 'error' && this.suiteFault) this.tellSuite(this.suites.at(-1) ?? { name: '', attributes: {} });
  }

  private collected(name: string, text: string, one: Open | undefined): void {
    this.text = [];
    const clean = text.trim();
    if (!one) {
      if ((name === 'message' || name === 'Message') && clean && this.stack.includes('failure'))
        this.suiteFault = clean;
      return;
    }
    if (name === 'Message' || name === 'message' || name === 'reason') one.message ||= capped(clean, mostMessage);
    else if (name === 'StackTrace' || name === 'stack-trace') one.stack = capped(clean, mostMessage);
    else if (name === 'StdOut' || name === 'output') one.output = capped(one.output + text, mostOutput);
    else if (name === 'StdErr') one.errorOutput = capped(one.errorOutput + text, mostOutput);
    else if (name === 'filePath' && clean) one.attachments.push(clean);
  }

  private tellSuite({ name, attributes }: { name: string; attributes: Record<string, string> }): void {
    const part = /SetUp|TearDown/.exec(attributes.site ?? '')?.[0];
    const what = part ? `that its ${part} failed` : 'an error';
    if (this.suiteFault !== undefined)
      this.xml.trouble(
        `the suite “${name || (attributes.name ?? '')}” tells ${what}: ${this.suiteFault.slice(0, 300)}`,
      );
    this.suiteFault = undefined;
  }

  /** Files of a result that only sums inner ones up are nobody's by name. */
  private passOn(one: Open): void {
    if (one.attachments.length)
      this.xml.trouble(
        `“${nameOf(one)}” has files of its own beside its inner results; name the test in their paths to place them`,
      );
  }

  private began(stamp: string | undefined): void {
    const at = timeOf(stamp, this.options.zoneMinutes);
    if (at === undefined) return;
    this.clock = at;
    this.clockZone = zoneTold(stamp!) ?? null;
  }

  private finish(one: Open): void {
    const { attributes } = one;
    const told = (attributes.outcome ?? attributes.result ?? '').toLowerCase().replaceAll(/[^a-z]/g, '');
    let outcome: ReportedOutcome = outcomes[told] ?? (one.failed ? 'failed' : 'passed');
    // NUnit tells what was no assertion by its label, and where it went wrong by its site.
    if (outcome === 'failed' && /^(?:error|cancelled)$/i.test(attributes.label ?? '')) outcome = 'errored';
    const durationMs = lasted(attributes);
    const stamp = attributes.startTime ?? attributes['start-time'] ?? attributes['start-rtf'];
    const own = timeOf(stamp, this.options.zoneMinutes);
    const startedAt = own ?? this.clock;
    const { suite, title } = this.named(one);
    const made: ReportCase = {
      suite,
      title,
      outcome,
      message: outcome === 'passed' ? '' : one.message,
      stack: one.stack,
      number: 1,
      ...(durationMs === undefined ? {} : { durationMs }),
      ...(startedAt === undefined
        ? {}
        : {
            startedAt,
            startTold: own === undefined ? 'summed' : 'told',
            zone: own === undefined ? this.clockZone : (zoneTold(stamp!) ?? null),
          }),
      output: one.output,
      errorOutput: one.errorOutput,
      attachments: [...new Set([...one.attachments, ...attachmentsIn(one.output), ...attachmentsIn(one.errorOutput)])],
      properties: one.properties,
      ...(attributes.computerName ? { host: attributes.computerName } : {}),
    };
    if (own === undefined && this.clock !== undefined) this.clock += durationMs ?? 0;
    if (one.tag === 'UnitTestResult' && attributes.testId && this.waiting.length < mostWaiting)
      this.waiting.push({ testId: attributes.testId, one: made });
    else this.give(made);
  }

  private give(one: ReportCase): void {
    this.count++;
    this.found({ ...one, number: this.tries.next(`${one.suite}\n${one.title}\n${one.host ?? ''}`) });
  }

  private named({ tag, attributes }: Open): { suite: string; title: string } {
    const full = attributes.testName ?? attributes.fullname ?? attributes.name ?? '';
    const shown = tag === 'test-case' ? (attributes.name ?? full) : full;
    const suite =
      attributes.classname ??
      attributes.type ??
      this.suites
        .map(({ name }) => name)
        .filter(Boolean)
        .at(-1) ??
      '';
    // Names that begin with their class say it twice.
    const title = suite && shown.startsWith(`${suite}.`) ? shown.slice(suite.length + 1) : shown;
    return { suite, title: title || '(without a name)' };
  }
}

const nameOf = ({ attributes }: Open): string => attributes.testName ?? attributes.name ?? '';

/** Seconds, or hours with minutes and seconds as TRX has them. */
function lasted({ duration, time }: Record<string, string>): number | undefined {
  const text = duration ?? time;
  if (!text) return undefined;
  const clock = /^(?:(\d+)\.)?(\d{1,2}):(\d{2}):(\d{2}(?:\.\d+)?)$/.exec(text);
  if (clock)
    return ((Number(clock[1] ?? 0) * 24 + Number(clock[2])) * 3600 + Number(clock[3]) * 60 + Number(clock[4])) * 1000;
  const seconds = Number(text.replaceAll(',', ''));
  return Number.isFinite(seconds) && seconds >= 0 ? seconds * 1000 : undefined;
}
