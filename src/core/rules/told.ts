import type { PolicyName } from './against.ts';
import type { FramesPreview, HostsPreview, LimitsPreview, MaskPreview, ThresholdsPreview } from './preview-reading.ts';
import type { RulesPreview } from './preview.ts';

/** What rules would have done to the last runs, and what they come to as they are. */
export interface WholePreview extends RulesPreview {
  /** What the rules that hold come to, for the difference. */
  now: Record<PolicyName, number>;
  frames: FramesPreview;
  hosts: HostsPreview;
  thresholds: ThresholdsPreview;
  limits: LimitsPreview;
  /** Of each mask, in their order; null for one that holds already: what it hides is not kept. */
  masks: (MaskPreview | null)[];
}
