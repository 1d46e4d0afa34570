import type { StepEvent } from '../evidence/event.ts';

/** What a later command took from an earlier one’s answer. */
export interface Taken {
  /** The step that gave the answer. */
  from: StepEvent;
  path: string[];
  /** What was added to a number. */
  plus: number;
}

type Json = Record<string, unknown>;
const deepest = 3;
/** How far beyond a point a place may lie that was worked out from it; of a box, anywhere within. */
const near = 4;
const longestBack = 60;

interface Measured {
  path: [string, string][];
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Boxes and points in an answer: `{x, y, width, height}`, `{left, top, …}` or `[x, y]`. */
function measuredIn(value: unknown, path: string[] = []): Measured[] {
  if (!value || typeof value !== 'object' || path.length > deepest) return [];
  if (Array.isArray(value) && value.length === 2 && value.every((one) => typeof one === 'number')) {
    const [x, y] = value as [number, number];
    return [
      {
        path: [
          [...path, '0'],
          [...path, '1'],
        ] as never,
        x,
        y,
        width: 0,
        height: 0,
      },
    ];
  }
  const box = value as Json;
  const [left, top] = typeof box.x === 'number' ? ['x', 'y'] : ['left', 'top'];
  const own: Measured[] =
    typeof box[left!] === 'number' && typeof box[top!] === 'number'
      ? [
          {
            path: [
              [...path, left],
              [...path, top],
            ] as never,
            x: box[left!] as number,
            y: box[top!] as number,
            width: typeof box.width === 'number' ? box.width : 0,
            height: typeof box.height === 'number' ? box.height : 0,
          },
        ]
      : [];
  const parts = Object.entries(box).filter(([key]) => /^(?:[A-Za-z_][\w-]*|\d+)$/.test(key));
  return [...own, ...parts.flatMap(([key, one]) => measuredIn(one, [...path, key]))];
}

const measures = ({ data }: StepEvent): boolean => data.action === 'script' || data.command === 'get element rect';

/** The measured place that a point was worked out from, the latest first; nothing where it was measured by nobody. */
export function placeFrom(
  steps: readonly StepEvent[],
  before: StepEvent,
  x: number,
  y: number,
): { x: Taken; y: Taken } | undefined {
  const earlier = steps.filter((step) => step.at < before.at && !step.data.error).slice(-longestBack);
  for (const from of earlier.reverse()) {
    if (!measures(from)) continue;
    const found = measuredIn(from.data.result).find(
      (one) =>
        x >= one.x - near && x <= one.x + one.width + near && y >= one.y - near && y <= one.y + one.height + near,
    );
    if (!found) continue;
    const [px, py] = found.path as unknown as [string[], string[]];
    const taken = (path: string[], at: number, of: number): Taken => ({
      from,
      path,
      plus: Math.round((at - of) * 10) / 10,
    });
    return { x: taken(px, x, found.x), y: taken(py, y, found.y) };
  }
  return undefined;
}

/** Texts shorter than this are the same by chance. */
const tellingLength = 4;

/** The read whose answer a later command was given as it was: a code the page showed, say. */
export function textFrom(steps: readonly StepEvent[], before: StepEvent, text: string): StepEvent | undefined {
  if (text.length < tellingLength || !/\d/.test(text)) return undefined;
  return steps.findLast(
    (step) =>
      step.at < before.at &&
      step.data.result === text &&
      (step.data.action === 'script' ||
        (step.data.action === 'read' && /^(text|attribute|property)/.test(step.data.subject ?? ''))),
  );
}
