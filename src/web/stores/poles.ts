import { defineStore } from 'pinia';
import { ref, watch } from 'vue';
import { usualPlan, type PoleKey, type PolePlan } from '../scaffold/columns.ts';

const kept = 'iskel.poles';

/** Which poles stand on the bench, in which order and how wide: kept in this browser. */
export const usePoles = defineStore('poles', () => {
  const plan = ref<PolePlan[]>(read());
  watch(plan, (now) => localStorage.setItem(kept, JSON.stringify(now)), { deep: true });

  const one = (key: PoleKey): PolePlan => plan.value.find((pole) => pole.key === key)!;

  function show(key: PoleKey, how: PolePlan['show']): void {
    one(key).show = how;
  }

  function move(key: PoleKey, by: 1 | -1): void {
    const from = plan.value.findIndex((pole) => pole.key === key);
    const to = from + by;
    if (to < 0 || to >= plan.value.length) return;
    const list = [...plan.value];
    [list[from], list[to]] = [list[to]!, list[from]!];
    plan.value = list;
  }

  function widen(key: PoleKey, by: number): void {
    const pole = one(key);
    pole.wide = Math.round(Math.min(3, Math.max(0.5, pole.wide + by)) * 100) / 100;
  }

  function asItWas(): void {
    plan.value = usualPlan.map((pole) => ({ ...pole }));
  }

  return { plan, show, move, widen, asItWas };
});

/** What was kept, as far as it is still understood; poles that are new since then stand in their usual place. */
function read(): PolePlan[] {
  const usual = usualPlan.map((pole) => ({ ...pole }));
  let stored: unknown;
  try {
    stored = JSON.parse(localStorage.getItem(kept) ?? '[]');
  } catch {
    return usual;
  }
  if (!Array.isArray(stored)) return usual;
  const known = stored.flatMap((pole: Partial<PolePlan>) => {
    const base = usual.find((one) => one.key === pole?.key);
    if (!base) return [];
    return [
      {
        key: base.key,
        show: pole.show === 'yes' || pole.show === 'no' ? pole.show : ('by need' as const),
        wide: typeof pole.wide === 'number' && pole.wide >= 0.5 && pole.wide <= 3 ? pole.wide : 1,
      },
    ];
  });
  const missing = usual.filter(({ key }) => !known.some((pole) => pole.key === key));
  return [...known, ...missing];
}
