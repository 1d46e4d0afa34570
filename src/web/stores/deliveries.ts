import { defineStore } from 'pinia';
import { reactive } from 'vue';
import { ApiError } from '../api.ts';
import type { Delivery } from '../parts/IntakeBand.vue';
import { upload, type Dropped } from '../upload.ts';

/** Deliveries of this page; they go on while one looks at other screens. */
export const useDeliveries = defineStore('deliveries', () => {
  const all = reactive<Delivery[]>([]);
  const stops = new Map<number, () => void>();
  let count = 0;

  async function take(files: readonly Dropped[], run?: string): Promise<void> {
    if (!files.length) return;
    const id = ++count;
    all.unshift({
      id,
      names: files.slice(0, 3).map(({ path }) => path),
      count: files.length,
      doing: 'Sending',
      share: 0,
      done: 0,
    });
    const delivery = all[0]!;
    const { result, stop } = upload(files, run, (share) => {
      delivery.share = share;
      if (share >= 1) {
        delivery.doing = 'Reading';
        delivery.share = null;
      }
    });
    stops.set(id, stop);
    try {
      delivery.result = await result;
    } catch (error) {
      delivery.error = error instanceof ApiError ? error.message : String(error);
    }
    stops.delete(id);
  }

  /** What the server tells of the delivery it reads now: the oldest that has been sent. */
  function heard(id: string, doing: string, done: number, of: number | null): void {
    const reading = all.findLast((one) => !one.result && !one.error && one.doing !== 'Sending');
    if (!reading) return;
    reading.doing = doing;
    reading.done = done;
    reading.share = of ? done / of : null;
    stops.set(reading.id, () => void fetch(`/api/intake/${id}`, { method: 'DELETE' }));
  }

  function close(id: number): void {
    const i = all.findIndex((one) => one.id === id);
    if (i >= 0) all.splice(i, 1);
  }
  return { all, take, heard, stop: (id: number) => stops.get(id)?.(), close };
});
