import type { EvidenceEvent } from '../evidence/event.ts';
import { endOf, eventsOf } from '../evidence/event.ts';
import type { Trouble } from './report.ts';

/** One cue of a WebVTT file; times in ms from the start of its video. */
export interface Cue {
  at: number;
  until: number;
  text: string;
}

const stamp = String.raw`(?:(\d{2,}):)?(\d{2}):(\d{2})\.(\d{3})`;
const timing = new RegExp(`^${stamp}\\s+-->\\s+${stamp}(?:\\s|$)`);
const ms = (parts: (string | undefined)[]): number =>
  ((Number(parts[0] ?? 0) * 60 + Number(parts[1])) * 60 + Number(parts[2])) * 1000 + Number(parts[3]);

/** @throws Error when the text does not begin with WEBVTT */
export function readVtt(text: string): { cues: Cue[]; problems: Trouble[] } {
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\r|\n/);
  if (!/^WEBVTT(?:[ \t]|$)/.test(lines[0] ?? '')) throw new Error('this is no WebVTT: the first line must be WEBVTT');
  const cues: Cue[] = [];
  const problems: Trouble[] = [];
  for (let i = 1; i < lines.length; i++) {
    if (!lines[i]!.includes('-->')) continue;
    const found = timing.exec(lines[i]!.trim());
    if (!found) {
      problems.push({ line: i + 1, message: 'this cue’s times are not readable' });
      continue;
    }
    const [at, until] = [ms(found.slice(1, 5)), ms(found.slice(5, 9))];
    if (until < at) {
      problems.push({ line: i + 1, message: 'this cue ends before it begins' });
      continue;
    }
    const body: string[] = [];
    while (i + 1 < lines.length && lines[i + 1]!.trim() && !lines[i + 1]!.includes('-->')) body.push(lines[++i]!);
    cues.push({ at, until, text: unescaped(body.join('\n').replace(/<[^<>]*>/g, '')) });
  }
  return { cues, problems };
}

const entities: Record<string, string> = { amp: '&', lt: '<', gt: '>', nbsp: ' ', lrm: '', rlm: '' };
const unescaped = (text: string): string =>
  text.replace(/&(amp|lt|gt|nbsp|lrm|rlm);/g, (_all, name: string) => entities[name]!);
const escaped = (text: string): string =>
  text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replace(/\n\s*\n/g, '\n');

/** `hh:mm:ss.mmm` */
export function stampOf(at: number): string {
  const whole = Math.max(0, Math.round(at));
  const pad = (value: number, digits = 2): string => String(value).padStart(digits, '0');
  return `${pad(Math.floor(whole / 3_600_000))}:${pad(Math.floor(whole / 60_000) % 60)}:${pad(Math.floor(whole / 1000) % 60)}.${pad(whole % 1000, 3)}`;
}

/**
 * The steps of an attempt as WebVTT beside its video.
 * @param videoStart ms from the attempt's start at which the video begins
 */
export function writeVtt(events: readonly EvidenceEvent[], videoStart = 0): string {
  const cues = eventsOf(events, 'step')
    .filter((step) => endOf(step) >= videoStart)
    .map((step) => {
      const at = Math.max(0, step.at - videoStart);
      // A cue must last; one frame at 25 a second is the least that is seen.
      const until = Math.max(endOf(step) - videoStart, at + 40);
      const error = step.data.error ? `\n${step.data.error.code}` : '';
      return `${stampOf(at)} --> ${stampOf(until)}\n${escaped(step.data.label + error)}`;
    });
  return `WEBVTT\n\n${cues.join('\n\n')}\n`;
}
