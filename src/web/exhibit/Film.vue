<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import { lowerBound } from '../../core/scaffold/crowd.ts';
import { useBench } from '../stores/bench.ts';
import { seconds } from '../words.ts';
import { framesOfFilm } from '../vision.ts';

/** The video of an attempt at the level: the very frame that was on show, found by the times the file itself tells. */
const props = defineProps<{ blob: string; startsAt: number; time: number }>();
const emit = defineEmits<{ frame: [{ index: number; count: number; time: number } | undefined] }>();
const bench = useBench();
const player = ref<HTMLVideoElement>();
const times = ref<readonly number[]>([]);
const problem = ref('');
const address = computed(() => `/api/blobs/${props.blob}`);

watch(
  () => props.blob,
  async () => {
    times.value = [];
    problem.value = '';
    try {
      const read = await framesOfFilm(address.value);
      times.value = read.times;
      problem.value = read.problem ?? '';
    } catch (error) {
      problem.value = (error as Error).message;
    }
  },
  { immediate: true },
);
watch(
  () => [times.value, props.startsAt] as const,
  ([list, start]) => (bench.filmTimes = list.map((time) => start + time)),
);
onBeforeUnmount(() => (bench.filmTimes = []));

/** The frame on show: the last that began by now. A hair early counts, since stored times are rounded. */
const index = computed(() => {
  return times.value.length ? Math.max(0, lowerBound(times.value, props.time + 0.02) - 1) : undefined;
});
watch(
  index,
  (i) => emit('frame', i === undefined ? undefined : { index: i, count: times.value.length, time: times.value[i]! }),
  { immediate: true },
);
/** The middle of the frame's time on show: a seek to its very edge may land on the frame before. */
const target = computed(() => {
  const i = index.value;
  if (i === undefined) return Math.max(0, props.time) / 1000;
  const from = times.value[i]!;
  const until = times.value[i + 1] ?? from + (i ? from - times.value[i - 1]! : 40);
  return (from + until) / 2000;
});
function seek(): void {
  if (player.value && Number.isFinite(target.value)) player.value.currentTime = target.value;
}
watch(target, seek, { flush: 'post' });
</script>

<template>
  <video
    ref="player"
    :src="address"
    muted
    preload="auto"
    :aria-label="`The video of this attempt at ${seconds(time)} of its own`"
    @loadedmetadata="seek"
    @error="problem = 'this browser cannot play the video; its frames are read all the same'"
  />
  <p v-if="problem" class="problem amber">{{ problem }}</p>
</template>

<style scoped>
video {
  object-fit: contain;
}
.problem {
  inset: auto 0 0 0 !important;
  height: auto !important;
  padding: 3px 8px;
  background: var(--amber-pale);
}
</style>
