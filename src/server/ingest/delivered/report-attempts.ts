import { createHash } from 'node:crypto';
import { untoldBrowser, type Environment } from '../../../core/evidence/attempt.ts';
import type { EvidenceEvent } from '../../../core/evidence/event.ts';
import type { Masker } from '../../../core/evidence/masking.ts';
import { readLog } from '../../../core/formats/log-text.ts';
import type { ReportCase } from '../../../core/formats/report.ts';
import { browserIn, sizeIn } from '../../../core/placing/words.ts';

/** What a person may say of a delivery besides its files. */
export interface IntakeFields {
  run?: string;
  labels?: Record<string, string>;
  zoneMinutes?: number;
  secrets?: string[];
}

const pick = (properties: Record<string, string>, ...names: string[]): string | undefined => {
  for (const name of names) if (properties[name]) return properties[name];
  return undefined;
};

/** The environment a case was run in, from what its report, its path and the delivery's labels say. */
export function environmentOf(one: ReportCase, reportName: string, labels: Record<string, string>): Environment {
  const { properties } = one;
  const told =
    pick(labels, 'browser') ??
    pick(properties, 'browser', 'browserName', 'browser.name', 'browser_name', 'project', 'environment');
  const browser =
    (told && (browserIn(told) ?? told)) ??
    browserIn(one.host ?? '') ??
    browserIn(one.suite) ??
    browserIn(reportName) ??
    untoldBrowser;
  const version =
    pick(labels, 'version') ??
    pick(properties, 'browserVersion', 'browser.version', 'browser_version') ??
    /(?:^|[\s/-])(\d{2,3})(?:\.\d+)*$/.exec(told ?? '')?.[1] ??
    '';
  const toldSize =
    pick(labels, 'size', 'viewport') ?? pick(properties, 'viewport', 'resolution', 'size', 'window', 'environment');
  const size = sizeIn(toldSize ?? '') ?? sizeIn(reportName);
  const place = pick(labels, 'place') ?? pick(properties, 'place');
  const platform = pick(properties, 'platform', 'os', 'os.name');
  return {
    browser: browser.slice(0, 60),
    version: version.slice(0, 30),
    ...(size ?? {}),
    ...(place ? { place: place.slice(0, 60) } : {}),
    ...(platform ? { platform: platform.slice(0, 60) } : {}),
  };
}

/** The same case of the same run is the same attempt, however often it is given. */
export function attemptId(run: string, one: ReportCase, environment: string, number: number): string {
  const text = [
    run,
    one.suite,
    one.title,
    environment,
    number,
    one.startTold === 'told' ? one.startedAt : '',
    one.outcome,
  ].join('\n');
  return `a-${createHash('sha256').update(text).digest('hex').slice(0, 16)}`;
}

/** What a test wrote, as evidence: lines in time where they tell times, else one note. */
export function outputEvents(
  one: ReportCase,
  startedAt: number,
  masker: Masker,
  zoneMinutes: number | undefined,
): EvidenceEvent[] {
  const events: EvidenceEvent[] = [];
  const add = (raw: string, level: 'info' | 'error', prefix: string): void => {
    if (!raw.trim()) return;
    // Masked whole, before lines are taken apart.
    const text = masker.text(raw);
    const log = readLog(text, { day: startedAt, ...(zoneMinutes === undefined ? {} : { zoneMinutes }) });
    if (log) {
      for (const [i, entry] of log.entries.entries()) {
        events.push({
          id: `${prefix}${i}`,
          lane: 'console',
          kind: 'line',
          at: Math.max(0, entry.at - startedAt),
          clock: 'report',
          data: { level: entry.level, text: entry.text, source: entry.source ?? 'test' },
        });
      }
    } else if (level === 'error')
      events.push({
        id: `${prefix}0`,
        lane: 'console',
        kind: 'line',
        at: 0,
        clock: 'report',
        data: { level, text: text.trim().slice(0, 64 * 1024), source: 'test' },
      });
    else
      events.push({
        id: `${prefix}0`,
        lane: 'note',
        kind: 'note',
        at: 0,
        clock: 'report',
        data: { label: text.trim().slice(0, 64 * 1024) },
      });
  };
  add(one.output, 'info', 'out');
  add(one.errorOutput, 'error', 'err');
  return events;
}

/** Tags as reports give them: a property `tag` or `tags`, or words with @ in the title. */
export function tagsOf(one: ReportCase): string[] {
  const told = (one.properties.tags ?? one.properties.tag ?? '').split(/[,\s]+/).filter(Boolean);
  const marked = [...one.title.matchAll(/(?:^|\s)@([\w-]{2,30})/g)].map((found) => found[1]!);
  return [...new Set([...told, ...marked].map((tag) => tag.replace(/^@/, '')))].slice(0, 20);
}
