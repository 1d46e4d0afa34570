import { watch, type Ref } from 'vue';
import { onBeforeRouteLeave, onBeforeRouteUpdate, useRoute, useRouter } from 'vue-router';
import { noFilter, type ListFilter } from './exhibit/working-list.ts';
import { sides } from './stores/bench-lists.ts';
import type { TimeMode } from './stores/bench-time.ts';
import { useBench } from './stores/bench.ts';

/**
 * What the bench shows stands in its address, which restores it.
 * @param loaded nothing is written before
 */
export function useBenchAddress(id: string, loaded: Ref<boolean>): { restore: () => void } {
  const [route, router, bench] = [useRoute(), useRouter(), useBench()];

  function restore(): void {
    const { query } = route;
    const clue = Number(query.clue);
    bench.clue = null;
    bench.time.mode = modeOf(query);
    bench.time.zoom = Number(query.zoom) > 0 ? Number(query.zoom) : 1;
    bench.range = rangeOf(query.range);
    bench.side = sides.find((one) => one === query.side) ?? 'moment';
    bench.listFilter = {
      ...noFilter,
      words: String(query.words ?? ''),
      only: String(query.only ?? ''),
      from: String(query.from ?? ''),
      fresh: query.new === 'yes',
      inFlight: query.flight === 'yes',
    };
    const at = Number(query.at);
    if (Number.isInteger(clue) && clue > 0) bench.choose(clue - 1);
    const asked = query.at !== undefined && Number.isFinite(at);
    // What is being recorded is followed at its end.
    const end = bench.attempt?.state === 'recording' ? bench.outline.until : bench.failureAt;
    bench.level = asked ? at : end;
    bench.pointed = null;
    if (query.clue && Number.isNaN(clue)) bench.chooseCode(String(query.clue), at);
    if (query.show && Number.isFinite(at)) bench.point(String(query.show), at);
  }

  let writing: ReturnType<typeof setTimeout> | undefined;
  let leaving = false;
  // An address written while another screen is on its way would call that one back.
  const leave = (): void => {
    leaving = true;
    clearTimeout(writing);
  };
  onBeforeRouteLeave(leave);
  onBeforeRouteUpdate((to) => {
    if (to.params.id !== id) leave();
  });
  watch(
    () =>
      [
        bench.level,
        bench.clue,
        bench.time.mode,
        bench.time.zoom,
        bench.range,
        bench.side,
        bench.pointed,
        { ...bench.listFilter },
      ] as const,
    ([level, clue, mode, zoom, range, side, pointed, list]) => {
      if (!loaded.value || leaving) return;
      clearTimeout(writing);
      writing = setTimeout(() => {
        if (leaving || route.params.id !== id) return;
        void router.replace({
          query: {
            at: level.toFixed(1),
            ...(clue === null ? {} : { clue: String(clue + 1) }),
            ...(pointed ? { show: pointed } : {}),
            ...(mode === 'folded' ? {} : mode === 'true' ? { time: 'true' } : { fold: 'no' }),
            ...(zoom === 1 ? {} : { zoom: String(Number(zoom.toPrecision(4))) }),
            ...(side === 'moment' ? {} : { side }),
            ...(side === 'console' || side === 'network' ? listQuery(list) : {}),
            ...(range ? { range: `${range.from.toFixed(1)}-${range.until.toFixed(1)}` } : {}),
          },
        });
      }, 200);
    },
  );
  return { restore };
}

type Query = ReturnType<typeof useRoute>['query'];

const modeOf = (query: Query): TimeMode => (query.time === 'true' ? 'true' : query.fold === 'no' ? 'spread' : 'folded');

function rangeOf(text: unknown): { from: number; until: number } | null {
  const [, from, until] = /^([\d.]+)-([\d.]+)$/.exec(String(text ?? '')) ?? [];
  return until !== undefined && Number(until) > Number(from) ? { from: Number(from), until: Number(until) } : null;
}

const listQuery = (list: ListFilter): Record<string, string> => ({
  ...(list.words ? { words: list.words } : {}),
  ...(list.only ? { only: list.only } : {}),
  ...(list.from ? { from: list.from } : {}),
  ...(list.fresh ? { new: 'yes' } : {}),
  ...(list.inFlight ? { flight: 'yes' } : {}),
});
