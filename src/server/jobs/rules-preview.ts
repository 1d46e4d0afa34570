import { previewRules, type RulesPreview } from '../../core/rules/preview.ts';
import { previewFrames, previewMask, type FramesPreview, type MaskPreview } from '../../core/rules/preview-reading.ts';
import type { PolicyName } from '../../core/rules/against.ts';
import type { StandingRules } from '../../core/rules/standing-rules.ts';
import { linearPattern } from '../../core/patterns/linear-pattern.ts';
import type { Store } from '../store/store.ts';

/** What rules would have done to the last runs, and what they come to as they are. */
export interface WholePreview extends RulesPreview {
  /** What the rules that hold come to, for the difference. */
  now: Record<PolicyName, number>;
  frames: FramesPreview;
  /** Of each mask, in their order; null for one that holds already: what it hides is not kept. */
  masks: (MaskPreview | null)[];
}

/** Masks are tried on the texts of so many attempts, the latest. */
const mostMasked = 60;
const mostTexts = 4000;

/** Tries rules on the latest runs. For a thread: reads much. */
export function previewOf(store: Store, rules: StandingRules): WholePreview {
  const { complaints } = store;
  const now = store.rules.get();
  const runs = complaints.latestRuns();
  const heard = [...complaints.heardLately()];
  const preview = previewRules(rules, heard, runs.length);
  const held = previewRules(now, heard, runs.length);
  return {
    ...preview,
    now: {
      console: now.console.effect === 'off' ? 0 : held.console.wouldFail,
      requests: now.requests.effect === 'off' ? 0 : held.requests.wouldFail,
      risks: now.risks.effect === 'off' ? 0 : held.risks.wouldFail,
    },
    frames: previewFrames(now.frames, rules.frames, store.attempts.stacksOf(runs)),
    masks: rules.masks.map((mask) =>
      now.masks.includes(mask) ? null : previewMask(linearPattern(mask), textsOf(store, heard.slice(0, mostMasked))),
    ),
  };
}

function* textsOf(
  store: Store,
  attempts: readonly { id: string }[],
): Generator<{ attempt: string; texts: Iterable<{ event: string; text: string }> }> {
  for (const { id } of attempts) yield { attempt: id, texts: store.events.texts(id, mostTexts) };
}
