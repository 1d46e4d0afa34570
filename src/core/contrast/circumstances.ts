import { environmentKey } from '../evidence/attempt.ts';
import { quote } from '../evidence/labels.ts';
import { textFeature, type Feature, type FeatureKind, type Groups } from './feature.ts';
import type { Sketch } from './sketch.ts';

/** What holds for an attempt from its start. */
export function circumstances({ all, failing }: Groups): Feature[] {
  const text = (kind: FeatureKind, of: (one: Sketch) => string | undefined, say: (value: string) => string) =>
    textFeature(kind, -1, all, failing, of, () => null, kind, say);
  const environment = (of: (one: Sketch) => string | undefined, words: string) =>
    text('environment', of, (value) => `${words} ${value}`);
  return (
    [
      environment((one) => one.environment.browser || undefined, 'ran in'),
      environment(sizeOf, 'had a window of'),
      environment((one) => one.environment.place, 'ran at'),
      environment((one) => environmentKey(one.environment), 'ran in'),
      text(
        'commit',
        (one) => one.commit,
        (value) => `ran on commit ${value.slice(0, 10)}`,
      ),
    ]
      .flatMap((one) => one ?? [])
      // The whole environment says nothing new where its browser, size or place parts them already.
      .filter((one, i, list) => list.findIndex((other) => other.values.join() === one.values.join()) === i)
      .concat(neighbours(all, failing))
  );
}

/** Which tests ran beside the failing attempts, and right before them. */
function neighbours(all: readonly Sketch[], failing: number): Feature[] {
  const of =
    (ran: string, didNotRun: string, has: (one: NonNullable<Sketch['neighbours']>, title: string) => boolean) =>
    (title: string): Feature => ({
      kind: 'neighbour',
      subject: title,
      slot: -1,
      values: all.map((one) => (one.neighbours ? has(one.neighbours, title) : null)),
      shown: all.map(() => null),
      say: (direction) => `${direction === 'lacks' ? didNotRun : ran} ${quote(title)}`,
    });
  const failed = all.slice(0, failing).flatMap((one) => one.neighbours ?? []);
  const beside = new Set(failed.flatMap((one) => one.beside));
  const after = new Set(failed.flatMap((one) => one.after ?? []));
  return [
    ...[...beside].map(of('ran beside', 'did not run beside', (one, title) => one.beside.includes(title))),
    ...[...after].map(of('ran right after', 'did not run right after', (one, title) => one.after === title)),
  ];
}

export const sizeOf = ({ environment: { width, height } }: Sketch): string | undefined =>
  width && height ? `${width}×${height}` : undefined;
