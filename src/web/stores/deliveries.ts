import { defineStore } from 'pinia';
import { computed, reactive, ref } from 'vue';
import { deliver, type Sendable } from '../../core/delivery/deliver.ts';
import type { DeliveryView } from '../../core/records.ts';
import { api } from '../api.ts';
import { keyOf, pageLine } from '../delivery-line.ts';
import type { Delivery } from '../parts/IntakeBand.vue';
import type { Dropped } from '../upload.ts';

const sendable = ({ file, path }: Dropped): Sendable<Blob> => ({
  name: path,
  size: file.size,
  modifiedAt: file.lastModified,
  piece: (from, until) => file.slice(from, until),
});

const underWay = new Set<DeliveryView['state']>(['receiving', 'waiting', 'reading']);

/** Deliveries of this page, which go on while one looks at other screens, and those that others send. */
export const useDeliveries = defineStore('deliveries', () => {
  const mine = reactive<Delivery[]>([]);
  const known = ref<DeliveryView[]>([]);
  const stops = new Map<number, () => void>();
  let count = 0;

  async function take(files: readonly Dropped[], run?: string): Promise<void> {
    if (!files.length) return;
    const number = ++count;
    mine.unshift({ number, names: files.slice(0, 3).map(({ path }) => path), count: files.length });
    const delivery = mine[0]!;
    const stop = new AbortController();
    stops.set(number, () => stop.abort());
    try {
      const { result } = await deliver({
        key: keyOf(files),
        files: files.map(sendable),
        fields: run ? { run } : {},
        line: pageLine(stop.signal),
        told: (view) => (delivery.view = view),
        stopped: () => stop.signal.aborted,
        patienceMs: 20_000,
      });
      delivery.result = result;
    } catch (error) {
      if (stop.signal.aborted && delivery.view) {
        await api('DELETE', `/deliveries/${delivery.view.id}`).catch(() => undefined);
        delivery.error = 'It was stopped; nothing of it is kept.';
      } else delivery.error = error instanceof Error ? error.message : String(error);
    }
    stops.delete(number);
  }

  /** Looks at what others send, and at what was sent in part and left. */
  async function load(): Promise<void> {
    known.value = (await api<{ deliveries: DeliveryView[] }>('GET', '/deliveries')).deliveries;
  }

  const others = computed(() =>
    known.value.filter(({ id, state }) => underWay.has(state) && !mine.some(({ view }) => view?.id === id)),
  );
  const all = computed<Delivery[]>(() => [
    ...mine,
    ...others.value.map((view, i) => ({ number: -1 - i, names: view.names, count: view.files, view })),
  ]);

  function stop(one: Delivery): void {
    const own = stops.get(one.number);
    if (own) own();
    else if (one.view) void api('DELETE', `/deliveries/${one.view.id}`).then(load, load);
  }
  function close(one: Delivery): void {
    const i = mine.findIndex(({ number }) => number === one.number);
    if (i >= 0) mine.splice(i, 1);
  }
  return { all, take, load, stop, close };
});
