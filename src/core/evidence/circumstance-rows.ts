import type { Environment } from './attempt.ts';
import { eventsOf, type Circumstances, type EvidenceEvent, type MachineLoad } from './event.ts';

export interface CircumstanceRow {
  name: string;
  value: string;
  /** Worth a second look by itself. */
  odd?: boolean;
}

/** A page's clock this far from that of who served it, or from ours, is no matter of rounding, ms. */
const oddClockMs = 2000;
/** More than this waits for each core: a machine that starves what runs on it. */
const oddLoad = 1.5;

const signed = (ms: number): string =>
  `${ms < 0 ? '−' : '+'}${Math.abs(ms) < 1000 ? `${Math.round(Math.abs(ms))} ms` : `${(Math.abs(ms) / 1000).toFixed(1)} s`}`;
const list = (names: readonly string[]): string => (names.length ? names.join(', ') : 'none');

/** What the page and the machine were like, a row each; only what is known. */
export function circumstanceRows(
  events: readonly EvidenceEvent[],
  environment: Environment,
  startedAt: number,
): CircumstanceRow[] {
  const page = eventsOf(events, 'page');
  const told = page.find((event) => event.kind === 'circumstances');
  const load = page.findLast((event) => event.kind === 'machine')?.data.load;
  const rows: CircumstanceRow[] = [];
  const add = (name: string, value: string | undefined, odd = false): void => {
    if (value !== undefined && value !== '') rows.push({ name, value, ...(odd ? { odd } : {}) });
  };
  add('Place', environment.place);
  const found = told?.data.circumstances;
  if (found && told) {
    add(
      'Time zone',
      found.zone &&
        `${found.zone}${found.zoneMinutes === undefined || found.zone === 'UTC' ? '' : `, ${zoneOffset(found.zoneMinutes)}`}`,
    );
    add('Language', found.locale);
    clockRows(found, startedAt + told.at, documentDate(events, startedAt), add);
    add('Window', size(found.window));
    add(
      'Screen',
      size(found.screen) &&
        `${size(found.screen)}${found.ratio && found.ratio !== 1 ? `, ${found.ratio} pixels each` : ''}`,
    );
    add('Motion', found.reducedMotion ? 'reduced' : undefined);
    add('Cookies', found.cookies && list(found.cookies));
    add('Storage', found.local && found.session && list([...found.local, ...found.session]));
    add('Cores told', found.cores === undefined ? undefined : String(found.cores));
    add('Browser', found.agent);
  }
  if (load) add('Machine', loadWords(load), Math.max(load.from, load.until) > oddLoad);
  return rows;
}

const size = (of: readonly [number, number] | undefined): string | undefined => of && `${of[0]}×${of[1]}`;

const zoneOffset = (minutes: number): string => {
  const [hours, rest] = [Math.floor(Math.abs(minutes) / 60), Math.abs(minutes) % 60];
  return `UTC${minutes < 0 ? '−' : '+'}${hours}${rest ? `:${String(rest).padStart(2, '0')}` : ''}`;
};

/** When the site said it answered the first document, against when its answer came: whole seconds are all it tells. */
function documentDate(events: readonly EvidenceEvent[], startedAt: number): number | undefined {
  for (const { at, data } of eventsOf(events, 'network')) {
    if (data.type !== 'document' || !data.own || data.firstByteMs === undefined) continue;
    const header = Object.entries(data.responseHeaders ?? {}).find(([name]) => name.toLowerCase() === 'date')?.[1];
    const date = header === undefined ? NaN : Date.parse(header);
    if (!Number.isNaN(date)) return date - (startedAt + at + data.firstByteMs);
  }
  return undefined;
}

function clockRows(
  { date }: Circumstances,
  at: number,
  server: number | undefined,
  add: (name: string, value: string, odd?: boolean) => void,
): void {
  if (date === undefined) return;
  const off = date - at;
  const words = [new Date(date).toISOString().slice(0, 19).replace('T', ' ')];
  if (Math.abs(off) > oddClockMs) words.push(`${signed(off)} against this machine`);
  const against = server === undefined ? undefined : off - server;
  if (against !== undefined && Math.abs(against) > oddClockMs) words.push(`${signed(against)} against the site’s own`);
  add('Page’s clock', words.join(', '), words.length > 1);
}

const loadWords = ({ from, until, cores }: MachineLoad): string =>
  `${from.toFixed(1)} processes to a core at the start, ${until.toFixed(1)} at the end, ${cores} ${cores === 1 ? 'core' : 'cores'}`;
