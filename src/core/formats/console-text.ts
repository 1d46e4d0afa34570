import { isoOf } from './times.ts';
import { eventsOf, type EvidenceEvent } from '../evidence/event.ts';

/** The console of an attempt as a text a developer can read and our own log reader reads back. */
export function writeConsole(events: readonly EvidenceEvent[], startedAt: number): string {
  return eventsOf(events, 'console')
    .map(({ at, data }) => {
      const time = isoOf(startedAt + at);
      const source = data.source ? ` [${data.source.replaceAll(/[\]\n]/g, ' ')}]` : '';
      const stack = data.stack && !data.text.includes(data.stack) ? `\n${data.stack}` : '';
      return `${time} ${data.level.toUpperCase()}${source} ${`${data.suppressed ? 'suppressed: ' : ''}${data.text}${stack}`.replaceAll('\n', '\n    ')}\n`;
    })
    .join('');
}
