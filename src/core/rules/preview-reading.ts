import { frameText, readStack, type FrameRules } from '../failures/stack.ts';
import type { LinearPattern } from '../patterns/linear-pattern.ts';

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
