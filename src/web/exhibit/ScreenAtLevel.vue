<script setup lang="ts">
import { computed, shallowRef, ref, watch } from 'vue';
import type { Finding } from '../../core/vision/compare.ts';
import { onScreen, windowSize } from '../../core/scaffold/at-screen.ts';
import { useBench } from '../stores/bench.ts';
import { lookAt } from '../vision.ts';
import { seconds } from '../words.ts';
import Film from './Film.vue';
import PictureStage from './PictureStage.vue';

/** What the screen showed at the level: the picture or the frame of the video nearest before, the target outlined, the press marked. */
const bench = useBench();
const screen = computed(() => bench.now.screen);
const frame = computed(() => screen.value?.event);

/** A video that runs at the level is shown where no picture is nearer than this, ms. */
const nearPicture = 120;
const video = computed(() => {
  const now = bench.now.video;
  return now && (bench.filmFirst || !(screen.value && Math.abs(screen.value.offMs) <= nearPicture)) ? now : undefined;
});
const filmFrame = ref<{ index: number; count: number; time: number }>();
const source = computed(() => {
  const clock = video.value?.event.clock;
  return bench.attempt?.files.find((file) => `file:${file.id}` === clock);
});
const drawn = computed(() =>
  onScreen(bench.poles, bench.shown, bench.now.step, bench.failingKey, bench.attempt?.failure ?? undefined),
);
const size = computed(() => {
  const shown = video.value?.event ?? frame.value;
  return shown ? windowSize(shown) : { width: 1280, height: 800 };
});
const off = computed(() => {
  if (video.value) {
    const within = source.value?.offsetWithin;
    const clock = within == null ? 'how exactly is not known' : `± ${Math.round(within)} ms`;
    const at = filmFrame.value;
    return at
      ? `video frame ${at.index + 1} of ${at.count} · ${Math.round(video.value.time - at.time)} ms before · ${clock}`
      : `video at ${seconds(video.value.time)} of its own, ${clock}`;
  }
  const now = screen.value;
  if (!now) return '';
  const ms = Math.round(Math.abs(now.offMs));
  const kind = now.event.kind === 'screenshot' ? 'screenshot' : 'picture';
  return `${kind} ${now.index + 1} of ${now.count} · ${ms === 0 ? 'right then' : `${ms} ms ${now.offMs <= 0 ? 'before' : 'after'}`}`;
});
const findings = shallowRef<Finding[]>([]);
watch(
  () => (video.value || bench.time.playing ? undefined : frame.value?.data.blob),
  async (blob) => {
    findings.value = [];
    if (!blob) return;
    const found = await lookAt(`/api/blobs/${blob}`);
    if (frame.value?.data.blob === blob) findings.value = found;
  },
  { immediate: true },
);
const dialog = computed(() => {
  const last = bench.poles.window.findLast(
    (event) => event.at <= bench.shown && (event.kind === 'dialog-opened' || event.kind === 'dialog-closed'),
  );
  return last?.kind === 'dialog-opened' ? last.data : undefined;
});
const words = computed(() => {
  const { box, segment, press, unplaced } = drawn.value;
  const covered = segment?.state.coveredBy;
  const matches = segment?.state.count ?? 0;
  return [
    box &&
      `target at ${Math.round(box.x)}, ${Math.round(box.y)}, ${Math.round(box.width)} by ${Math.round(box.height)}`,
    unplaced && 'the target is in a frame of another host: where on the picture is not known',
    segment?.state.inView === false && 'target scrolled out of view',
    covered && `covered by ${covered}`,
    matches > 1 && `${matches} elements match`,
    press &&
      `${press.missed ? 'press meant for' : 'pressed at'} ${Math.round(press.x)}, ${Math.round(press.y)}${press.reached ? `, ${press.missed ? 'where' : 'on'} ${press.reached}${press.missed ? ' lay' : ''}` : ''}`,
    dialog.value && `dialog open: “${dialog.value.text ?? ''}”`,
  ].filter(Boolean) as string[];
});
/** Lines are as strong on a large window drawn small as on a small one. */
const unit = computed(() => size.value.width / 400);
</script>

<template>
  <section aria-label="Screen at this level">
    <div class="head">
      <h2>Screen at this level</h2>
      <span class="soft one-line">{{ off }}</span>
    </div>
    <PictureStage v-if="video || frame" :size="size" :label="`What the screen showed. ${words.join('; ')}`">
      <Film
        v-if="video"
        :blob="video.event.data.blob"
        :starts-at="video.event.at"
        :time="video.time"
        @frame="filmFrame = $event"
      />
      <img v-else-if="frame" :src="`/api/blobs/${frame.data.blob}`" alt="" draggable="false" />
      <svg v-if="!video || drawn.box || drawn.press" :viewBox="`0 0 ${size.width} ${size.height}`" aria-hidden="true">
        <g v-if="drawn.box && drawn.box.width > 0">
          <rect
            v-for="kind in ['halo', 'target']"
            :key="kind"
            :x="drawn.box.x - unit"
            :y="drawn.box.y - unit"
            :width="drawn.box.width + 2 * unit"
            :height="drawn.box.height + 2 * unit"
            :class="[kind, { replaced: drawn.replaced, covered: drawn.segment?.state.coveredBy }]"
            :stroke-width="(kind === 'halo' ? 2.4 : 1.4) * unit"
            :stroke-dasharray="
              drawn.segment?.state.coveredBy
                ? `${unit} ${1.3 * unit}`
                : drawn.replaced
                  ? `${4 * unit} ${2 * unit}`
                  : undefined
            "
          />
        </g>
        <g
          v-if="drawn.press"
          class="press"
          :class="{ missed: drawn.press.missed }"
          :data-x="drawn.press.x"
          :data-y="drawn.press.y"
          :stroke-width="1.2 * unit"
        >
          <circle :cx="drawn.press.x" :cy="drawn.press.y" :r="5 * unit" />
          <path
            :d="`M ${drawn.press.x - 8 * unit} ${drawn.press.y} h ${16 * unit} M ${drawn.press.x} ${drawn.press.y - 8 * unit} v ${16 * unit}`"
          />
        </g>
      </svg>
      <p v-if="dialog" class="dialog">
        <b>{{ dialog.dialog ?? 'dialog' }}</b> {{ dialog.text }}
      </p>
      <template #tools>
        <label v-if="bench.now.video"
          ><input v-model="bench.filmFirst" type="checkbox" :disabled="!frame" /> the video</label
        >
        <button v-if="bench.poles.screens.length > 1" @click="bench.side = 'compare'">Compare pictures</button>
      </template>
    </PictureStage>
    <p v-else class="none soft">
      No pictures were recorded in this attempt. Detail “standard” or “full” records them; the test’s own screenshots
      show here too.
    </p>
    <ul v-if="words.length" class="soft caption">
      <li v-for="word in words" :key="word">{{ word }}</li>
    </ul>
    <p v-for="finding in findings" :key="finding.kind" class="amber caption">This picture: {{ finding.words }}</p>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  margin-bottom: 5px;
}
.head h2 {
  white-space: nowrap;
}
img {
  object-fit: fill;
  user-select: none;
}
.halo {
  fill: none;
  stroke: #fff;
  opacity: 0.8;
}
.target {
  fill: none;
  stroke: #1b6e80;
}
.target.replaced {
  stroke: #6a549a;
}
.target.covered {
  stroke: #b0412b;
}
.press circle,
.press path {
  fill: none;
  stroke: #1b6e80;
}
.press.missed circle,
.press.missed path {
  stroke: #b0412b;
}
.dialog {
  inset: 8% 12% auto 12% !important;
  width: auto !important;
  height: auto !important;
  padding: 8px 12px;
  background: var(--paper);
  border: 2px solid var(--brick);
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
