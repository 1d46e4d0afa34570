import { quote, said, shorten } from '../evidence/labels.ts';
import { median } from '../stats/median.ts';
import { maskMark } from '../evidence/masking.ts';
import { circumstances } from './circumstances.ts';
import { counted, most, textFeature, type Feature, type FeatureKind, type Groups } from './feature.ts';
import { inputs } from './inputs.ts';
import type { Slot } from './line-up.ts';
import type { Sketch, SketchStep } from './sketch.ts';

/** Less of a request left than this is no request under way: clocks of a browser and a recorder differ. */
const leastLeftMs = 30;
/** Most different requests whose order of answers is looked at. */
const mostOrdered = 16;

/** Everything that may part the groups. */
export function featuresOf(groups: Groups, slots: readonly Slot[]): Feature[] {
  const asked = groups.all.map(byKey);
  return [
    ...circumstances(groups),
    ...slots.flatMap((slot, i) => ofSlot(groups, asked, slot, i)),
    ...slots.flatMap((slot, i) => inputs(groups, slot, i)),
    ...requests(groups, asked, slots),
    ...lines(groups, slots),
    ...happenings(groups, slots),
    ...pace(groups),
    ...structures(groups, slots),
  ];
}

type Asked = ReadonlyMap<string, Sketch['requests']>;

/** The requests of an attempt by their keys, each in the order they were made. */
function byKey({ requests: all }: Sketch): Asked {
  const map = new Map<string, Sketch['requests']>();
  for (const request of all) {
    const same = map.get(request.key);
    if (same) same.push(request);
    else map.set(request.key, [request]);
  }
  return map;
}

/** What a field holds that holds what was typed, whatever that was. */
const asTyped = 'what was typed';

function ofSlot({ all, failing, ends }: Groups, asked: readonly Asked[], slot: Slot, i: number): Feature[] {
  const steps = all.map((one, who) => (slot.members[who]! >= 0 ? one.steps[slot.members[who]!]! : undefined));
  const shown = steps.map((step) => (step ? { event: step.events[0]!, at: step.at } : null));
  const text = (kind: FeatureKind, of: (step: SketchStep) => string | undefined, say: (value: string) => string) =>
    textFeature(
      kind,
      i,
      steps,
      failing,
      (step) => step && of(step),
      (who) => shown[who]!,
      label,
      say,
    );
  const label = slot.label;
  const began = beganOf(steps, failing);
  const list: (Feature | undefined)[] = [
    {
      kind: 'step',
      subject: label,
      slot: i,
      values: steps.map((step, who) => (step ? true : ends[who]! < i ? null : false)),
      shown,
      say: (direction) => `${said(label)} was ${direction === 'lacks' ? 'not ' : ''}done`,
    },
    text(
      'error',
      (step) => step.error ?? '',
      (v) => (v ? `${said(label)} failed: ${v}` : `${said(label)} did not fail`),
    ),
    text(
      'value',
      (step) => step.value,
      (v) => `${said(label)} gave ${v ? quote(shorten(v, 48)) : 'nothing'}`,
    ),
    text(
      'input',
      (step) => (step.input?.includes(maskMark) ? undefined : step.input),
      (v) => `${said(label)} was given ${quote(shorten(v, 48))}`,
    ),
    text(
      'held',
      (step) => (step.held === false ? (step.holds ?? 'something else') : step.held && asTyped),
      (v) => `after ${said(label)} the field held ${v === asTyped ? v : v ? quote(shorten(v, 40)) : 'nothing'}`,
    ),
    text(
      'target',
      (step) => step.presence,
      (v) => `the target of ${said(label)} was ${v}`,
    ),
    text(
      'target',
      // What it gave is said already.
      (step) => (step.text === step.value ? undefined : step.text),
      (v) => `the target of ${said(label)} read ${quote(shorten(v, 48))}`,
    ),
    text(
      'matches',
      (step) => step.matches?.toString(),
      (v) => `${v} elements matched at ${said(label)}`,
    ),
    text(
      'page',
      (step) => step.page,
      (v) => `${said(label)} was done on ${v}`,
    ),
    text(
      'title',
      (step) => step.title,
      (v) => `${said(label)} was done under the title ${quote(shorten(v, 48))}`,
    ),
    text(
      'window',
      (step) => step.window?.toString(),
      (v) => `${said(label)} was done in ${windowWords(Number(v))}`,
    ),
    {
      kind: 'duration',
      subject: label,
      slot: i,
      values: steps.map((step) => (step ? step.until - step.at : null)),
      shown,
      say: (direction) => `${said(label)} took ${direction === 'less' ? 'less long' : 'longer'}`,
    },
  ];
  const keys = new Set(steps.flatMap((step) => (step ? Object.keys(step.inFlight) : [])));
  for (const key of keys)
    list.push({
      kind: 'in-flight',
      subject: key,
      slot: i,
      values: steps.map((step, who) => (step && asked[who]!.size ? (step.inFlight[key] ?? 0) >= leastLeftMs : null)),
      shown: steps.map((step, who) => {
        const flying = step?.inFlight[key] === undefined ? undefined : asked[who]!.get(key);
        const request = flying?.find((r) => r.at < step!.until && r.until > step!.at);
        return request ? { event: request.event, at: step!.at } : shown[who]!;
      }),
      say: (direction) => `${key} was ${direction === 'lacks' ? 'not' : 'still'} under way at ${said(label)}`,
    });
  return list.flatMap((one) => (one ? [seen.has(one.kind) ? { ...one, began } : one] : []));
}

/** Kinds that tell what the target was like: it was so before the step looked. */
const seen: ReadonlySet<FeatureKind> = new Set(['value', 'target']);

/**
 * When targets came to be what a step found them to be. One that stayed what others were at first parts
 * from them when they had changed: as long before the step as they had.
 */
function beganOf(steps: readonly (SketchStep | undefined)[], failing: number): (number | null)[] {
  const leads = steps.slice(failing).flatMap((step) => (step?.since === undefined ? [] : [step.at - step.since]));
  const lead = leads.length ? median(leads) : undefined;
  return steps.map((step) =>
    step?.since === undefined || lead === undefined ? null : Math.min(step.at, Math.max(step.since, step.at - lead)),
  );
}

export const windowWords = (index: number): string => (index < 0 ? 'a frame' : `window ${index + 1}`);

/** The place in the line-up at which something happened in an attempt: that of the step begun last. */
export function placeIn(slots: readonly Slot[], one: Sketch, who: number, at: number): number {
  let found = -1;
  for (let i = 0; i < slots.length; i++) {
    const j = slots[i]!.members[who]!;
    if (j < 0) continue;
    if (one.steps[j]!.at > at) break;
    found = i;
  }
  return found;
}

/** Earliest place, among the attempts in which something is so, at which it happened. */
function firstPlace(
  groups: Groups,
  slots: readonly Slot[],
  shown: Feature['shown'],
  so: (who: number) => boolean,
): number {
  let first = Infinity;
  groups.all.forEach((one, who) => {
    const here = shown[who];
    if (here && so(who)) first = Math.min(first, placeIn(slots, one, who, here.at));
  });
  return Number.isFinite(first) ? first : -1;
}

function requests(groups: Groups, asked: readonly Asked[], slots: readonly Slot[]): Feature[] {
  const keys = [...new Set(asked.flatMap((map) => [...map.keys()]))];
  const out: Feature[] = [];
  for (const key of keys) {
    const first = asked.map((map) => map.get(key)?.[0]);
    const shown = first.map((request) => (request ? { event: request.event, at: request.at } : null));
    const push = (feature: Omit<Feature, 'slot' | 'shown' | 'subject'>, of: Feature['shown'] = shown): void => {
      const slot = firstPlace(
        groups,
        slots,
        of,
        (who) => feature.values[who] !== false && feature.values[who] !== null,
      );
      out.push({ ...feature, subject: key, slot, shown: of });
    };
    // An attempt without any request is one whose requests nobody wrote down.
    const asks = first.map((request, who) => (asked[who]!.size ? Boolean(request) : null));
    push({
      kind: 'request',
      values: asks,
      say: (direction) => `${key} was ${direction === 'lacks' ? 'not ' : ''}asked for`,
    });
    // It parts at the moment at which it had been answered in every passing attempt, and here was not.
    const known = first.slice(groups.failing).flatMap((request) => (request ? [request.until - request.at] : []));
    const high = known.length ? Math.max(...known) : 0;
    push(
      {
        // How late a page itself comes is how long it took to open it.
        kind: first.some((request) => request?.type === 'document') ? 'duration' : 'latency',
        values: first.map((request) => (request ? request.until - request.at : null)),
        say: (direction) => `${key} answered ${direction === 'less' ? 'sooner' : 'later'}`,
      },
      first.map((request) =>
        request ? { event: request.event, at: request.at + Math.min(high, request.until - request.at) } : null,
      ),
    );
    for (const ended of new Set(asked.flatMap((map) => (map.get(key) ?? []).map((request) => request.ended)))) {
      if (ended === '2xx' || ended === 'open') continue;
      const bad = asked.map((map) => map.get(key)?.find((request) => request.ended === ended));
      push(
        {
          kind: 'status',
          values: bad.map((request, who) => (first[who] ? Boolean(request) : null)),
          say: (direction) =>
            `${direction === 'lacks' ? 'not: ' : ''}${key} ${ended === 'failed' ? 'failed' : `answered ${bad.find(Boolean)?.status ?? ended}`}`,
        },
        // Where it is told that it did not answer so, it is what it answered instead that shows it.
        bad.map((request, who) => {
          const one = request ?? first[who];
          return one ? { event: one.event, at: one.until } : null;
        }),
      );
    }
  }
  const ordered = keys.filter((key) => asked.every((map) => map.has(key))).slice(0, mostOrdered);
  ordered.forEach((a, i) => {
    for (const b of ordered.slice(i + 1)) {
      const ends = asked.map((map) => [map.get(a)![0]!, map.get(b)![0]!] as const);
      const values = ends.map(([x, y]) => x.until > y.until);
      if (new Set(values).size < 2) continue;
      const later = most(counted(values.slice(0, groups.failing).map(String))) === 'true';
      const shown = ends.map(([x, y]) => ({ event: (later ? x : y).event, at: Math.max(x.until, y.until) }));
      out.push({
        kind: 'order',
        subject: later ? a : b,
        slot: firstPlace(groups, slots, shown, (who) => values[who] === later),
        values: values.map((value) => value === later),
        shown,
        say: (direction) => `${direction === 'lacks' ? 'not: ' : ''}${later ? a : b} answered after ${later ? b : a}`,
      });
    }
  });
  return out;
}

function lines(groups: Groups, slots: readonly Slot[]): Feature[] {
  const keys = new Set(groups.all.flatMap((one) => one.console.map((line) => line.key)));
  return [...keys].map((key) => {
    const found = groups.all.map((one) => one.console.find((line) => line.key === key));
    const shown = found.map((line) => (line ? { event: line.event, at: line.at } : null));
    const example = found.find(Boolean)!;
    return {
      kind: 'console' as const,
      subject: key,
      slot: firstPlace(groups, slots, shown, () => true),
      values: unlessBlind(groups, found),
      shown,
      say: (direction) =>
        `${direction === 'lacks' ? 'not said: ' : ''}${example.uncaught ? 'the page threw' : `the console said as ${example.level}`} ${quote(shorten(example.text, 60))}`,
    };
  });
}

/** Whether there was one, by attempt; not known of those whose browser told nothing. */
const unlessBlind = ({ all }: Groups, found: readonly unknown[]): (boolean | null)[] =>
  found.map((one, who) => (all[who]!.blind ? null : Boolean(one)));

/** What pages were made of when they had first come to rest, where passing attempts agree on it. */
function structures({ all, failing, ends }: Groups, slots: readonly Slot[]): Feature[] {
  const pages = new Set(all.flatMap((one) => one.structures.map(({ page }) => page)));
  return [...pages].flatMap((page) => {
    const found = all.map((one) => one.structures.find((structure) => structure.page === page));
    // Times since the attempt first did anything on that page, or, of a frame, anything at all. One that has not become what others had
    // become by then parts from them when they had, not when it last changed itself.
    const since = all.map((one) => (one.steps.find((step) => step.page === page) ?? one.steps[0])?.at ?? 0);
    const others = found.slice(failing).flatMap((one, i) => (one ? [one.at - since[failing + i]!] : []));
    // What it held before the test did anything on it parts them at the first thing done there, not at what led to it.
    const became = others.length ? Math.max(0, median(others)) : 0;
    const shown = found.map((one, who) =>
      one ? { event: one.event, at: who < failing ? Math.max(one.at, since[who]! + became) : one.at } : null,
    );
    const feature = textFeature(
      'structure',
      -1,
      found,
      failing,
      (one) => one?.blob,
      (who) => shown[who]!,
      page,
      () => `${page} held something else when it had come to rest`,
    );
    if (!feature) return [];
    return [
      {
        ...feature,
        slot: firstPlace({ all, failing, ends }, slots, shown, (who) => feature.values[who] === true),
        words: undefined,
      },
    ];
  });
}

/** So many plain finds and reads are told together: each of them takes too little to be compared. */
const questions = 6;

/** How long plain questions took: where all of them do, it is so from the first step on. */
function pace({ all }: Groups): Feature[] {
  return [
    {
      kind: 'pace',
      subject: 'plain finds and reads',
      slot: 0,
      values: all.map((one) => (one.pace && one.pace.count >= questions ? one.pace.ms * questions : null)),
      shown: all.map(({ steps: [first] }) => (first ? { event: first.events[0]!, at: first.at } : null)),
      say: (direction) => `${questions} plain finds and reads took ${direction === 'less' ? 'less long' : 'longer'}`,
    },
  ];
}

/** Dialogs and windows that opened. */
function happenings(groups: Groups, slots: readonly Slot[]): Feature[] {
  const out: Feature[] = [];
  const of = (
    kind: 'dialog' | 'windows',
    list: (one: Sketch) => readonly { at: number; event: string }[],
    least: number,
  ) => {
    const found = groups.all.map((one) => list(one)[least]);
    if (!found.some(Boolean)) return;
    const shown = found.map((one) => (one ? { event: one.event, at: one.at } : null));
    out.push({
      kind,
      subject: kind === 'dialog' ? 'a dialog' : `a ${least === 1 ? 'second' : 'third'} window`,
      slot: firstPlace(groups, slots, shown, () => true),
      values: unlessBlind(groups, found),
      shown,
      say(direction) {
        return `${direction === 'lacks' ? 'not: ' : ''}${this.subject} opened`;
      },
    });
  };
  of('dialog', (one) => one.dialogs, 0);
  of('windows', (one) => one.windows, 1);
  of('windows', (one) => one.windows, 2);
  return out;
}
