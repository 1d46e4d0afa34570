import { acts, type Drill, type Line, type Statement, type Value } from '../drill/drill.ts';
import { seeded } from '../stats/seeded.ts';
import type { DataShape, Stressor } from './stressor.ts';

/** Statements that set something up rather than do something: no step of a person's. */
const still: ReadonlySet<Statement['do']> = new Set(['window', 'implicit', 'limit', 'seed', 'group', 'note', 'pause']);

/** Numbers of the statements that can come later: those that do, read, check or wait. */
export const stepsOf = ({ lines }: Drill): Line[] => lines.filter((line) => !still.has(line.do));

/**
 * A drill as it is played under stressors of the test's own side: its pace, its data, its window. The others do not
 * change it.
 * @param number which trial it is: jitter draws anew for each, and the same again for the same
 */
export function stressedDrill(drill: Drill, stressors: readonly Stressor[], number = 1): Drill {
  return stressors.reduce((before, one) => ({ ...before, lines: stressed(before, one, number) }), drill);
}

function stressed(drill: Drill, stressor: Stressor, number: number): Line[] {
  const { lines } = drill;
  switch (stressor.kind) {
    case 'pace':
      return lines.flatMap((line): Line[] => {
        if (line.do !== 'pause') return [line];
        const ms = Math.round(line.ms * stressor.factor);
        return ms > 0 ? [{ ...line, ms }] : [];
      });
    case 'jitter': {
      const random = seeded(number);
      return lines.flatMap((line): Line[] =>
        acts.has(line.do) ? [{ do: 'pause', ms: Math.round(random() * stressor.ms), line: line.line }, line] : [line],
      );
    }
    case 'late-step': {
      const step = stepsOf(drill)[stressor.step - 1];
      return lines.flatMap((line): Line[] =>
        line === step ? [{ do: 'pause', ms: Math.round(stressor.ms), line: line.line }, line] : [line],
      );
    }
    case 'window': {
      const { width, height } = stressor;
      const size: Line = { do: 'window', width, height, line: lines[0]?.line ?? 1 };
      return [size, ...lines.filter((line) => line.do !== 'window')];
    }
    case 'data':
      return lines.map((line) => (line.do === 'type' ? { ...line, text: shaped(line.text, stressor.shape) } : line));
    default:
      return lines;
  }
}

/** A text of another shape; what is put together from remembered values stays as it is. */
function shaped(value: Value, shape: DataShape): Value {
  if (typeof value !== 'string' || value === '') return value;
  switch (shape) {
    case 'apostrophe':
      return `${value.slice(0, 1)}'${value.slice(1)}`;
    case 'plus':
      return `${value}+1`;
    case 'long':
      return value.padEnd(300, value);
    case 'other script':
      return 'Şule Çağlar 京都';
    case 'markup':
      return `<b>${value}</b>&amp;`;
  }
}
