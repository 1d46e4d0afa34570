import type { Clue } from '../clues/clue.ts';
import { cameFrom, keyOfRequest } from '../contrast/sketch.ts';
import { endOf, unanswered, type ConsoleData, type ConsoleEvent, type NetworkEvent } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';
import type { Risk, RiskKind } from '../risks/risk.ts';
import { riskNames } from '../risks/words.ts';
import type { RequestEnd } from './standing-rules.ts';

/** One thing that a page complained of in an attempt, or that was kept quiet in it: what policies are about. */
export interface Complaint {
  kind: 'line' | 'exception' | 'swallowed' | 'request' | 'risk';
  /** What it says; of a request, which it was and how it ended. */
  text: string;
  /** Of lines. */
  level?: ConsoleData['level'];
  /** Of requests. */
  ended?: RequestEnd;
  /** Of what may make the test flake. */
  risk?: RiskKind;
  /** Of what was swallowed: by whom. */
  by?: SwallowedBy;
  /** Address of the script that said it, or that was asked for. */
  source?: string;
  /** Address of the page it was said on. */
  page?: string;
  /** It is the application's own. */
  own: boolean;
  /** How often, when the first time, ms, and the event that tells it. */
  count: number;
  at: number;
  event: string;
}

/** Who kept an exception quiet: a handler in the page, code that caught it and only logged it, or the test, which went on. */
export type SwallowedBy = 'handler' | 'caught' | 'test';

/** Most different complaints that are kept of an attempt, and the longest text of one. */
export const mostComplaints = 200;
const longestText = 1000;

/** A line that is an exception somebody caught and only wrote down: its name comes first, or after a few words. */
const thrown = /^(?:[^:\n]{0,40}: ?)?(?:Uncaught )?[A-Z]\w{0,40}(?:Error|Exception)\b/;

/** A command that failed in an attempt that went on counts from this strength of its clue on: below it may have been a question. */
const sureSwallowed = 0.9;

/**
 * All that policies may be about in one attempt, each once, in the order in which it first came.
 * @param clues what the analysis found: commands that failed and were not minded are told there
 * @param risks what may make it flake
 */
export function complaintsOf(evidence: Evidence, clues: readonly Clue[], risks: readonly Risk[] = []): Complaint[] {
  const own = ownHosts(evidence);
  const all: Found[] = [
    ...evidence.console.map((line) => fromConsole(line, own)),
    ...evidence.network.flatMap((one) => fromRequest(one)),
    ...clues.flatMap((clue) => fromClue(clue)).map((complaint) => ({ complaint })),
    ...risks.map((risk) => ({ complaint: fromRisk(risk) })),
  ].sort((a, b) => a.complaint.at - b.complaint.at);
  const known = new Map<string, Complaint>();
  for (const { complaint: one, said } of all) {
    const key = [one.kind, one.level, one.text, one.source && cameFrom(one.source)].join('\n');
    const before = known.get(key);
    if (before) before.count++;
    else if (known.size < mostComplaints)
      known.set(key, said ? { ...one, ...pageAt(evidence, said.at, said.context) } : one);
  }
  return [...known.values()];
}

/** Of what a page said: when, and in which window. Its page is looked for once it is kept. */
interface Found {
  complaint: Complaint;
  said?: { at: number; context: string | undefined };
}

const hostOf = (address: string): string => /^[a-z-]+:\/\/([^/?#]+)/i.exec(address)?.[1]?.toLowerCase() ?? '';

/** Hosts of the pages that the test opened and of what they ask of their own. */
function ownHosts({ network, page }: Evidence): ReadonlySet<string> {
  const hosts = new Set(network.flatMap(({ data }) => (data.own ? [data.host.toLowerCase()] : [])));
  // Where nothing is known of requests, the pages themselves tell.
  if (hosts.size === 0) for (const { data } of page) if (data.address) hosts.add(hostOf(data.address));
  return hosts;
}

/** The page that stood there at a time, in a window or in any. */
function pageAt({ page }: Evidence, at: number, context: string | undefined): { page?: string } {
  const shown = page.findLast(
    (event) =>
      event.at <= at &&
      event.data.address !== undefined &&
      (event.kind === 'navigation-committed' || event.kind === 'fragment') &&
      (context === undefined || event.data.context === undefined || event.data.context === context),
  );
  return shown ? { page: shown.data.address } : {};
}

function fromConsole(line: ConsoleEvent, own: ReadonlySet<string>): Found {
  const { text, level, source, stack, context, uncaught, suppressed } = line.data;
  const host = source === undefined ? '' : hostOf(source);
  const caught =
    (level === 'error' || level === 'warning') && (stack !== undefined || source !== undefined) && thrown.test(text);
  const kind = suppressed
    ? 'swallowed'
    : line.kind === 'exception' || uncaught
      ? 'exception'
      : caught
        ? 'swallowed'
        : 'line';
  const complaint: Complaint = {
    kind,
    text: text.slice(0, longestText),
    ...(suppressed ? {} : { level }),
    ...(kind === 'swallowed' ? { by: suppressed ? ('handler' as const) : ('caught' as const) } : {}),
    ...(source === undefined ? {} : { source }),
    own: host === '' || own.has(host),
    count: 1,
    at: line.at,
    event: line.id,
  };
  return { complaint, said: { at: line.at, context } };
}

/** How an own request went wrong; nothing when it did not, or was only called off. */
export function wrongEnd({ data: { own, status, failed } }: NetworkEvent): RequestEnd | undefined {
  if (!own) return undefined;
  if (status !== undefined && status >= 400) return status >= 500 ? '5xx' : '4xx';
  return failed !== undefined && failed !== unanswered && !/abort|cancel/i.test(failed) && !status
    ? 'failed'
    : undefined;
}

function fromRequest(one: NetworkEvent): Found[] {
  const ended = wrongEnd(one);
  if (!ended) return [];
  const { status, failed, url, context } = one.data;
  const how = status === undefined ? `failed: ${failed}` : `answered ${status}`;
  const complaint: Complaint = {
    kind: 'request',
    text: `${keyOfRequest(one.data)} ${how}`.slice(0, longestText),
    ended,
    source: url,
    own: true,
    count: 1,
    at: endOf(one),
    event: one.id,
  };
  return [{ complaint, said: { at: one.at, context } }];
}

function fromClue({ code, strength, summary, at, evidence }: Clue): Complaint[] {
  if (code !== 'error-swallowed' || strength < sureSwallowed || evidence[0] === undefined) return [];
  return [
    { kind: 'swallowed', by: 'test', text: summary.slice(0, longestText), own: true, count: 1, at, event: evidence[0] },
  ];
}

/** What is said of a risk has numbers that differ each time; its kind and step are what is complained of. */
const fromRisk = ({ kind, step, at, evidence }: Risk): Complaint => ({
  kind: 'risk',
  risk: kind,
  text: `${riskNames[kind]}: ${step}`,
  own: true,
  count: 1,
  at,
  event: evidence[0] ?? '',
});
