import { computed, ref, shallowRef, watch } from 'vue';
import type { ConsoleEvent, NetworkEvent } from '../../core/evidence/event.ts';
import type { Usual } from '../../core/evidence/usual.ts';
import { api } from '../api.ts';
import { noFilter, type ListFilter } from '../exhibit/working-list.ts';
import type { BenchEvidence } from './bench-evidence.ts';

export const sides = ['moment', 'why', 'console', 'network', 'structure', 'compare'] as const;
export type Side = (typeof sides)[number];

/** What stands beside the scaffold: the moment, or one of its lists with its filter and all that it lists. */
export function useBenchLists({ attempt, outline, poles }: BenchEvidence) {
  const side = ref<Side>('moment');
  const listFilter = ref<ListFilter>({ ...noFilter });
  /** What passing attempts of this test usually log and ask for; asked when a list is opened. */
  const usual = shallowRef<Usual>();
  /** All lines and requests of a large attempt, for its lists. */
  const listed = shallowRef<{ console: ConsoleEvent[]; network: NetworkEvent[]; more: boolean }>();
  let listedOf: string | undefined;
  watch(
    outline,
    () => {
      listed.value = undefined;
      if (attempt.value?.id !== listedOf) usual.value = undefined;
      listedOf = attempt.value?.id;
    },
    { flush: 'sync' },
  );
  // Asked for again when the attempt was loaded anew, or another one, while a list stands open.
  watch([side, outline], async ([now]) => {
    const id = attempt.value?.id;
    if (!id || (now !== 'console' && now !== 'network')) return;
    usual.value ??= await api<Usual>('GET', `/attempts/${id}/usual`).catch(() => undefined);
    if (outline.value.whole || listed.value) return;
    const [lines, requests] = await Promise.all([
      api<{ events: ConsoleEvent[]; after: string | null }>('GET', `/attempts/${id}/events?lane=console&limit=10000`),
      api<{ events: NetworkEvent[]; after: string | null }>('GET', `/attempts/${id}/events?lane=network&limit=10000`),
    ]);
    if (attempt.value?.id === id)
      listed.value = {
        console: lines.events,
        network: requests.events,
        more: lines.after !== null || requests.after !== null,
      };
  });
  const consoleLines = computed(() => listed.value?.console ?? poles.value.console);
  const requests = computed(() => listed.value?.network ?? poles.value.network);

  return { side, listFilter, usual, listed, consoleLines, requests };
}
