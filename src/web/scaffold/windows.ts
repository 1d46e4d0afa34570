import type { StepEvent, WindowEvent } from '../../core/evidence/event.ts';
import { endOf } from '../../core/evidence/event.ts';
import { pathOf, quote, shorten } from '../../core/evidence/labels.ts';
import type { TextItem } from './text-pole.ts';

/** One window of the browser over time: when it stood open, and when the test looked at it. */
export interface WindowLine {
  context: string;
  number: number;
  from: number;
  until: number;
  looked: { from: number; until: number }[];
}

export interface Windows {
  lines: WindowLine[];
  items: TextItem[];
}

/** The windows of an attempt, numbered as they opened, and what happened with them in words. */
export function windowsOf(events: readonly WindowEvent[], steps: readonly StepEvent[], end: number): Windows {
  const lines: WindowLine[] = [];
  const items: TextItem[] = [];
  const of = (context: string, at: number): WindowLine => {
    let line = lines.find((one) => one.context === context);
    if (!line) lines.push((line = { context, number: lines.length + 1, from: at, until: end, looked: [] }));
    return line;
  };
  let looking: WindowLine | undefined;
  const look = (line: WindowLine, at: number): void => {
    const open = looking?.looked.at(-1);
    if (open) open.until = at;
    line.looked.push({ from: at, until: end });
    looking = line;
  };
  for (const event of events) {
    const { id, at, data, kind } = event;
    const line = of(data.context, at);
    const say = (text: string, tone: TextItem['tone'], mark: TextItem['mark']): void => {
      items.push({ id, at, text, tone, mark });
    };
    if (kind === 'opened') {
      if (!looking) look(line, at);
      else say(`${line.number} opened, came to the front`, 'amber', 'ring');
    } else if (kind === 'closed') {
      line.until = at;
      say(`${line.number} closed`, 'soft', 'bar');
    } else if (kind === 'looked-at') {
      look(line, at);
      say(`test looks at ${line.number}${data.address ? `, ${pathOf(data.address)}` : ''}`, 'sea', 'block');
    } else if (kind === 'dialog-opened')
      say(`${data.dialog ?? 'dialog'} ${quote(shorten(data.text ?? '', 50))}`, 'brick', 'block');
    else say(`dialog ${data.text ?? 'closed'}`, 'soft', 'ring');
  }
  for (const step of steps)
    if (step.data.action === 'frame')
      items.push({
        id: step.id,
        at: endOf(step),
        text: step.data.error ? 'no such frame' : step.data.label.replace(/^Switch/, 'switch'),
        tone: step.data.error ? 'brick' : 'plain',
        mark: 'wide',
      });
  return { lines, items: items.sort((a, b) => a.at - b.at) };
}

/** Which window the test looked at, and which had come to the front last, at a time. */
export function windowAt(windows: Windows, at: number): { looked?: WindowLine; front?: WindowLine } {
  const open = windows.lines.filter((line) => line.from <= at && line.until >= at);
  const looked = open.find((line) => line.looked.some((one) => one.from <= at && one.until >= at));
  const latest = (line: WindowLine): number =>
    Math.max(line.from, ...line.looked.filter((one) => one.from <= at).map((one) => one.from));
  const front = [...open].sort((a, b) => latest(b) - latest(a))[0];
  return { looked, front };
}
