import type { Analysis } from '../analyse.ts';
import { causeNames } from '../causes/cause.ts';
import { frameText, readStack, type FrameRules } from '../failures/stack.ts';
import type { LinearPattern } from '../patterns/linear-pattern.ts';
import { ownBy, type HostRules } from './hosts.ts';
import type { Limits } from './limits.ts';

/** A failure as it was read, whose stack other rules may read otherwise. */
export interface ReadStack {
  attempt: string;
  title: string;
  stack: string;
  file?: string;
}

/** Which failures rules of own and library code would read otherwise. */
export interface FramesPreview {
  of: number;
  changed: number;
  examples: { attempt: string; title: string; before: string; after: string }[];
}

/** What one mask would have hidden. */
export interface MaskPreview {
  of: number;
  attempts: number;
  places: number;
  examples: { attempt: string; event: string }[];
}

/** Which hosts rules would take for another's than they are. */
export interface HostsPreview {
  /** Attempts whose requests were looked at. */
  of: number;
  changed: { host: string; requests: number; attempts: number; own: boolean }[];
}

/** What other thresholds would tell of the latest attempts. */
export interface ThresholdsPreview {
  of: number;
  changed: number;
  examples: { attempt: string; title: string; before: string; after: string }[];
}

/** How many of the latest attempts hold more than other limits let them. */
export interface LimitsPreview {
  of: number;
  cut: number;
  /** The most that any holds. */
  most: Limits;
}

const mostExamples = 5;
const nowhere = 'no line of own code';

/** Reads the stacks of failures by two forms of the rules. */
export function previewFrames(before: FrameRules, after: FrameRules, failures: Iterable<ReadStack>): FramesPreview {
  const preview: FramesPreview = { of: 0, changed: 0, examples: [] };
  const read = ({ stack, file }: ReadStack, rules: FrameRules): string => {
    const { ownFrame } = readStack(stack, file, rules);
    return ownFrame ? frameText(ownFrame) : nowhere;
  };
  for (const one of failures) {
    preview.of++;
    const [was, is] = [read(one, before), read(one, after)];
    if (was === is) continue;
    preview.changed++;
    if (preview.examples.length < mostExamples)
      preview.examples.push({ attempt: one.attempt, title: one.title, before: was, after: is });
  }
  return preview;
}

/** Where a mask fits in what is kept. @param kept the texts of each attempt, by the event they stand in */
export function previewMask(
  pattern: LinearPattern,
  kept: Iterable<{ attempt: string; texts: Iterable<{ event: string; text: string }> }>,
): MaskPreview {
  const preview: MaskPreview = { of: 0, attempts: 0, places: 0, examples: [] };
  for (const { attempt, texts } of kept) {
    preview.of++;
    const before = preview.places;
    for (const { event, text } of texts) {
      if (!pattern.fits(text)) continue;
      preview.places++;
      if (preview.examples.length < mostExamples && preview.examples.at(-1)?.attempt !== attempt)
        preview.examples.push({ attempt, event });
    }
    if (preview.places > before) preview.attempts++;
  }
  return preview;
}

/** Which hosts rules would call otherwise than they were called. @param asked the requests of each attempt, by host */
export function previewHosts(
  rules: HostRules,
  asked: Iterable<{ attempt: string; hosts: readonly { host: string; own: boolean; requests: number }[] }>,
): HostsPreview {
  const changed = new Map<string, HostsPreview['changed'][number]>();
  let of = 0;
  for (const { hosts } of asked) {
    of++;
    for (const { host, own, requests } of hosts) {
      const then = ownBy(rules, host) ?? own;
      if (then === own) continue;
      const one = changed.get(host) ?? { host, requests: 0, attempts: 0, own: then };
      changed.set(host, { ...one, requests: one.requests + requests, attempts: one.attempts + 1 });
    }
  }
  return { of, changed: [...changed.values()].sort((a, b) => b.requests - a.requests) };
}

/** What two readings of the same attempts tell otherwise: what leads, what was seen, what it may fail by. */
export function previewThresholds(
  read: Iterable<{ attempt: string; title: string; before: Analysis; after: Analysis }>,
): ThresholdsPreview {
  const preview: ThresholdsPreview = { of: 0, changed: 0, examples: [] };
  for (const { attempt, title, before, after } of read) {
    preview.of++;
    const [was, is] = [seenIn(before), seenIn(after)];
    if (was.all === is.all) continue;
    preview.changed++;
    if (preview.examples.length < mostExamples)
      preview.examples.push({ attempt, title, before: was.words(is), after: is.words(was) });
  }
  return preview;
}

interface Seen {
  all: string;
  /** What leads, and what the other reading does not have. */
  words: (other: Seen) => string;
  parts: readonly string[];
}
function seenIn({ suspects, undetermined, clues, risks }: Analysis): Seen {
  const [first] = suspects;
  const leads = !undetermined && first ? causeNames[first.cause] : 'no suspect leads';
  const parts = [
    ...clues.map(({ code, summary }) => `${code} ${summary}`),
    ...risks.map(({ kind, step }) => `${kind} ${step}`),
  ];
  const said = [...clues.map(({ summary }) => summary), ...risks.map(({ summary }) => summary)];
  return {
    all: [leads, ...parts].join('\n'),
    parts,
    words: (other) => {
      const more = parts.findIndex((part) => !other.parts.includes(part));
      return more < 0 ? leads : `${leads}; ${said[more]!}`;
    },
  };
}

/** @param sizes what each of the latest attempts holds */
export function previewLimits(limits: Limits, sizes: readonly Limits[]): LimitsPreview {
  const most = (key: keyof Limits): number => Math.max(0, ...sizes.map((size) => size[key]));
  return {
    of: sizes.length,
    cut: sizes.filter((size) => size.events > limits.events || size.picturesMb > limits.picturesMb).length,
    most: { events: most('events'), picturesMb: most('picturesMb') },
  };
}
