import { computed, reactive, ref, type Ref } from 'vue';
import { binnedScale, binsOf, type Stops } from '../../core/scaffold/crowd.ts';
import {
  elasticDefaults,
  paceFor,
  readyMarks,
  scaleOf,
  trueScale,
  type ElasticScale,
} from '../../core/scaffold/elastic.ts';
import { marksOf, type Poles } from '../../core/scaffold/poles.ts';

/** How time runs down the page: folded (quiet time drawn short), spread (nothing folded), or true. */
export type TimeMode = 'folded' | 'spread' | 'true';

/** Furthest away and nearest that one can look. */
const zooms = { least: 1 / 8192, most: 64 } as const;

/** Zooms no further apart than this are one movement. */
const hurryMs = 140;

/** The time of the bench: its mode, how near one looks, and the scale that follows from both. */
export function useBenchTime(given: {
  outline: Readonly<Ref<{ until: number; whole: boolean }>>;
  poles: Readonly<Ref<Poles>>;
  stops: Readonly<Ref<Stops>>;
}) {
  const mode = ref<TimeMode>('folded');
  const zoom = ref(1);
  /** Height in sight, pixels: a short attempt is spread to fill it. */
  const room = ref(0);
  const playing = ref(false);

  const marks = computed(() =>
    readyMarks(given.outline.value.whole ? marksOf(given.poles.value) : [], given.outline.value.until),
  );
  const bins = computed(() => binsOf(given.stops.value, given.outline.value.until));
  const pace = computed(() => (given.outline.value.whole ? paceFor(marks.value, room.value) : elasticDefaults.pxPerMs));

  function scaleAt(nearness: number): ElasticScale {
    const { until, whole } = given.outline.value;
    const pxPerMs = pace.value * nearness;
    if (mode.value === 'true') return trueScale(until, pxPerMs);
    const options = {
      pxPerMs,
      roomShare: Math.min(1, nearness),
      foldHeight: elasticDefaults.foldHeight * Math.min(1, Math.max(nearness, 0.01)),
      longest: (mode.value === 'folded' ? elasticDefaults.longest : 20_000) * Math.max(nearness, 0.001),
      ...(mode.value === 'folded' ? {} : { foldFromMs: Infinity }),
    };
    return whole ? scaleOf(marks.value, options) : binnedScale(bins.value, options);
  }
  const scale = computed(() => scaleAt(zoom.value));

  /** One zoom follows another at once: words rest until it stops, so that every frame is quick. */
  const hurried = ref(false);
  let lastZoom = -Infinity;
  let rest: ReturnType<typeof setTimeout> | undefined;
  function hurry(): void {
    const now = performance.now();
    if (now - lastZoom < hurryMs) hurried.value = true;
    lastZoom = now;
    clearTimeout(rest);
    rest = setTimeout(() => (hurried.value = false), hurryMs);
  }

  /** Looks from nearer (over 1) or further (under 1). */
  function zoomBy(factor: number): void {
    hurry();
    zoom.value = Math.min(zooms.most, Math.max(zooms.least, zoom.value * factor));
  }

  /** Looks from so far that a stretch of time fills the room. */
  function fit(from: number, until: number): void {
    let low = Math.log(zooms.least);
    let high = Math.log(zooms.most);
    for (let i = 0; i < 14; i++) {
      const middle = (low + high) / 2;
      const tried = scaleAt(Math.exp(middle));
      if (tried.y(until) - tried.y(from) > room.value) high = middle;
      else low = middle;
    }
    zoom.value = Math.exp(low);
  }

  return reactive({ mode, zoom, hurried, room, playing, scale, zoomBy, fit });
}
