import { describe, expect, it } from 'vitest';
import type { ContrastView, PlankView } from '../../core/contrast/view.ts';
import { backToBack, boardHeight } from './back-to-back.ts';

const plank = (at: number, error: string | null = null): PlankView => ({
  event: `e${at}`,
  label: `step at ${at}`,
  at,
  until: at + 10,
  error,
  value: null,
  page: null,
});
const view = (rows: [number | null, number | null][], split: number | null = null): ContrastView => ({
  failing: [{ id: 'a-1', environment: 'chromium 156', commit: null, startedAt: 0 }],
  passing: [{ id: 'a-2', environment: 'chromium 156', commit: null, startedAt: 0 }],
  left: { id: 'a-1', start: rows[0]![0] ?? 0, until: 5000, requests: [], lines: [] },
  right: { id: 'a-2', start: rows[0]![1] ?? 0, until: 5000, requests: [], lines: [] },
  slots: rows.map(([left, right]) => ({
    label: 'step',
    left: left === null ? null : plank(left),
    right: right === null ? null : plank(right),
    failing: [1, 1],
    passing: [1, 1],
  })),
  split: split === null ? null : { stepIndex: split, at: 0, summary: '' },
  differences: [],
  found: 0,
  weak: true,
});

describe('two attempts back to back', () => {
  it('begin at the same height however late each began, and tie the same steps by level rungs', () => {
    const { rungs, left, right } = backToBack(
      view([
        [900, 100],
        [1000, 200],
        [1100, 300],
      ]),
    );
    expect(left.map(({ top }) => top)).toEqual(right.map(({ top }) => top));
    for (const rung of rungs) expect(rung).toMatchObject({ lag: 0, words: '' });
  });

  it('slope where one side is later, and say by how much where it began', () => {
    const { rungs } = backToBack(
      view([
        [0, 0],
        [100, 100],
        [900, 200],
        [1000, 300],
      ]),
    );
    expect(rungs[1]!.left).toBe(rungs[1]!.right);
    expect(rungs[2]!.left).toBeGreaterThan(rungs[2]!.right);
    expect(rungs.map(({ words }) => words)).toEqual(['', '', '+700 ms', '']);
  });

  it('cover nothing on a side, and give a step of one side no rung', () => {
    const rows = Array.from({ length: 40 }, (_, i): [number | null, number | null] => [
      i * 3,
      i % 4 === 2 ? null : i * 5,
    ]);
    const { left, right, rungs } = backToBack(view(rows));
    for (const side of [left, right])
      side.slice(1).forEach((board, i) => expect(board.top - side[i]!.top).toBeGreaterThanOrEqual(boardHeight));
    expect(rungs).toHaveLength(30);
  });

  it('keep what is said beside the rungs clear of each other and of where they part', () => {
    for (let split = 0; split < 8; split++) {
      const rows = Array.from({ length: 8 }, (_, i): [number, number] => [i * 400, i * 100 + (i % 2) * 250]);
      const { rungs, split: line } = backToBack(view(rows, split));
      const tops = rungs.filter(({ words }) => words).map(({ wordsTop }) => wordsTop);
      expect(tops.length).toBeGreaterThan(2);
      tops.slice(1).forEach((top, i) => expect(top - tops[i]!).toBeGreaterThanOrEqual(16));
      for (const top of tops) expect(top >= line! + 12 || top + 16 <= line! - 12).toBe(true);
    }
  });

  it('part above the step they part at', () => {
    const { split, left } = backToBack(
      view(
        [
          [0, 0],
          [100, 100],
          [900, 200],
        ],
        1,
      ),
    );
    expect(split).toBeLessThan(left[1]!.top);
    expect(split).toBeGreaterThan(left[0]!.top);
    expect(backToBack(view([[0, 0]])).split).toBeUndefined();
  });
});
