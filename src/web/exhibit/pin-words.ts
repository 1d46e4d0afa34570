import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { pathOf, shorten, stepLabel } from '../../core/evidence/labels.ts';
import { wordsOfEvent } from '../../core/evidence/find-words.ts';

/** What a pinned event is called where the attempt itself is not at hand. */
export function pinWords(event: EvidenceEvent): string {
  switch (event.lane) {
    case 'step':
      return stepLabel(event.data);
    case 'network':
      return `${event.data.method} ${pathOf(event.data.url)} ${event.data.status ?? event.data.failed ?? ''}`.trim();
    case 'screen':
      return 'the screen';
    default:
      return shorten(wordsOfEvent(event) || event.kind.replaceAll('-', ' '), 120);
  }
}
