<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { segmentAt } from '../../core/evidence/lifelines.ts';
import { locatorKey } from '../../core/evidence/locator.ts';
import { useBench } from '../stores/bench.ts';
import { seconds } from '../words.ts';
import { endOf } from '../../core/evidence/event.ts';

/** The picture nearest before the level, with the target outlined and the press point marked. */
const bench = useBench();
const screen = computed(() => bench.now.screen);
const frame = computed(() => screen.value?.event);

/** A video that runs at the level is shown where no picture is nearer than this, ms. */
const nearPicture = 120;
const video = computed(() => {
  const now = bench.now.video;
  return now && !(screen.value && Math.abs(screen.value.offMs) <= nearPicture) ? now : undefined;
});
const player = ref<HTMLVideoElement>();
function seek(): void {
  if (player.value && video.value) player.value.currentTime = video.value.time / 1000;
}
watch(() => video.value?.time, seek, { flush: 'post' });
const source = computed(() => {
  const clock = video.value?.event.clock;
  return bench.attempt?.files.find((file) => `file:${file.id}` === clock);
});

/** The locator in question: of the step at the level, else the failing one. */
const key = computed(() => {
  const step = bench.now.step;
  return step?.data.locator && bench.level - step.at < 1500 ? locatorKey(step.data.locator) : undefined;
});
const line = computed(() => {
  const lineOf = (locator?: string) => bench.poles.lifelines.find((one) => one.locator === locator);
  return lineOf(key.value) ?? lineOf(bench.failingKey);
});
const segment = computed(() => (line.value ? segmentAt(line.value, bench.level) : undefined));
const box = computed(() => segment.value?.state.box);
const replaced = computed(() => {
  const now = segment.value;
  if (!line.value || !now || now.state.node === null) return false;
  return line.value.segments.some((s) => s.from <= now.from && s.kind === 'replaced');
});
const press = computed(() => {
  const step = bench.now.step;
  const failure = bench.attempt?.failure;
  if (!step || step.data.action !== 'press') return undefined;
  if (failure?.step === step.id && failure.point) return { ...failure.point, missed: true };
  const event = bench.poles.page.find((e) => e.kind === 'press' && e.at >= step.at - 5 && e.at <= endOf(step) + 60);
  if (event) return { x: event.data.x!, y: event.data.y!, missed: false };
  return failure?.step === step.id && box.value
    ? { x: box.value.x + box.value.width / 2, y: box.value.y + box.value.height / 2, missed: true }
    : undefined;
});
const size = computed(() => ({ width: frame.value?.data.width ?? 1280, height: frame.value?.data.height ?? 800 }));
const off = computed(() => {
  if (video.value) {
    const within = source.value?.offsetWithin;
    return `video at ${seconds(video.value.time)} of its own, ${within == null ? 'how exactly is not known' : `± ${Math.round(within)} ms`}`;
  }
  const now = screen.value;
  if (!now) return '';
  const ms = Math.round(Math.abs(now.offMs));
  return `picture ${now.index + 1} of ${now.count} · ${ms === 0 ? 'right then' : `${ms} ms ${now.offMs <= 0 ? 'before' : 'after'}`}`;
});
const words = computed(() => {
  const b = box.value;
  const covered = segment.value?.state.coveredBy;
  return [
    b && `target outlined at ${Math.round(b.x)}, ${Math.round(b.y)}, ${Math.round(b.width)} by ${Math.round(b.height)}`,
    covered && `covered by ${covered}`,
    press.value && `press point ${Math.round(press.value.x)}, ${Math.round(press.value.y)}`,
  ]
    .filter(Boolean)
    .join('; ');
});
</script>

<template>
  <section aria-label="Screen at this level">
    <div class="head">
      <h2>Screen at this level</h2>
      <span class="soft">{{ off }}</span>
    </div>
    <video
      v-if="video"
      ref="player"
      class="film"
      :src="`/api/blobs/${video.event.data.blob}`"
      muted
      preload="auto"
      :aria-label="`The video of this attempt at ${seconds(video.time)}`"
      @loadedmetadata="seek"
    />
    <div v-else-if="frame" class="frame" :style="{ aspectRatio: `${size.width} / ${size.height}` }">
      <img :src="`/api/blobs/${frame.data.blob}`" :alt="`What the screen showed. ${words}`" />
      <svg :viewBox="`0 0 ${size.width} ${size.height}`" aria-hidden="true">
        <g v-if="box && box.width > 0">
          <rect :x="box.x - 5" :y="box.y - 5" :width="box.width + 10" :height="box.height + 10" class="halo" />
          <rect
            :x="box.x - 5"
            :y="box.y - 5"
            :width="box.width + 10"
            :height="box.height + 10"
            class="target"
            :class="{ replaced, covered: segment?.state.coveredBy }"
          />
        </g>
        <g v-if="press" class="press" :class="{ missed: press.missed }">
          <circle :cx="press.x" :cy="press.y" r="17" />
          <path :d="`M ${press.x - 27} ${press.y} H ${press.x + 27} M ${press.x} ${press.y - 27} V ${press.y + 27}`" />
        </g>
      </svg>
    </div>
    <p v-else class="none soft">
      No pictures were recorded in this attempt. Detail “standard” or “full” records them; the test’s own screenshots
      show here too.
    </p>
    <p v-if="words" class="soft caption one-line" :title="words">{{ words }}</p>
  </section>
</template>

<style scoped>
.film {
  width: 100%;
  display: block;
  border: 1px solid var(--line);
  background: var(--fold);
}
.head {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  margin-bottom: 5px;
}
.frame {
  position: relative;
  border: 1px solid var(--line);
  background: var(--paper);
  overflow: hidden;
}
img,
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.halo {
  fill: none;
  stroke: #fff;
  stroke-width: 7;
  opacity: 0.75;
}
.target {
  fill: none;
  stroke: #1b6e80;
  stroke-width: 4;
}
.target.replaced {
  stroke: #6a549a;
  stroke-dasharray: 12 7;
}
.target.covered {
  stroke: #b0412b;
  stroke-dasharray: 4 5;
}
.press circle {
  fill: none;
  stroke: #1b6e80;
  stroke-width: 4;
}
.press path {
  stroke: #1b6e80;
  stroke-width: 3;
}
.press.missed circle,
.press.missed path {
  stroke: #b0412b;
}
.none {
  padding: 18px;
  border: 1px dashed var(--line);
}
.caption {
  font-size: 11.5px;
  margin-top: 3px;
}
</style>
