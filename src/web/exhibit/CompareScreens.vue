<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import type { ScreenEvent } from '../../core/evidence/event.ts';
import { windowSize } from '../../core/scaffold/at-screen.ts';
import { useBench } from '../stores/bench.ts';
import { comparePicturesOf } from '../vision.ts';
import { plural, seconds } from '../words.ts';
import type { Compared } from '../workers/vision.ts';
import PictureStage from './PictureStage.vue';

/** Two pictures of the attempt compared: side by side, swiped, or as a map of what differs. */
const bench = useBench();
const pictures = computed(() => bench.poles.screens.filter((screen) => !screen.data.part));
const start = computed(() =>
  Math.max(
    0,
    pictures.value.findIndex(({ id }) => id === bench.now.screen?.event.id),
  ),
);
const first = ref(Math.max(0, start.value - 1));
const second = ref(Math.min(pictures.value.length - 1, Math.max(1, start.value)));
const ways = ['side by side', 'swipe', 'difference'] as const;
const way = ref<(typeof ways)[number]>('difference');
const cut = ref(50);
const compared = shallowRef<Compared>();
const trouble = ref('');
const canvas = ref<HTMLCanvasElement>();
const address = (screen: ScreenEvent | undefined): string => (screen ? `/api/blobs/${screen.data.blob}` : '');
const a = computed(() => pictures.value[first.value]);
const b = computed(() => pictures.value[second.value]);
const size = computed(() => (a.value ? windowSize(a.value) : { width: 1280, height: 800 }));
const name = (screen: ScreenEvent): string => `${seconds(screen.at)} ${screen.kind}`;
let turn = 0;
watch(
  [a, b],
  async ([one, other]) => {
    const mine = ++turn;
    compared.value = undefined;
    trouble.value = '';
    if (!one || !other) return;
    try {
      const got = await comparePicturesOf(address(one), address(other));
      if (mine === turn) compared.value = got;
    } catch (error) {
      if (mine === turn) trouble.value = (error as Error).message;
    }
  },
  { immediate: true },
);
watch(
  [compared, canvas],
  ([map, el]) => {
    if (!map || !el) return;
    el.width = map.width;
    el.height = map.height;
    el.getContext('2d')!.drawImage(map.map, 0, 0);
  },
  { flush: 'post' },
);
const said = computed(() => {
  const c = compared.value;
  if (!c) return trouble.value || 'Comparing';
  return c.share === 0
    ? 'The two pictures are the same.'
    : `${plural(Math.round(c.share * c.width * c.height), 'pixel')} of ${c.width * c.height} differ, in ${plural(c.regions.length, 'place')}.`;
});
const findings = computed(() => [
  ...(compared.value?.findings.a ?? []).map(({ words }) => `First: ${words}.`),
  ...(compared.value?.findings.b ?? []).map(({ words }) => `Second: ${words}.`),
]);
</script>

<template>
  <section aria-label="Two pictures compared" class="compare">
    <p v-if="pictures.length < 2" class="soft">
      Comparing needs two pictures; this attempt has {{ pictures.length === 1 ? 'one' : 'none' }}.
    </p>
    <template v-else>
      <div class="pick">
        <label
          >First
          <select v-model="first">
            <option v-for="(one, i) in pictures" :key="one.id" :value="i">{{ name(one) }}</option>
          </select></label
        >
        <label
          >Second
          <select v-model="second">
            <option v-for="(one, i) in pictures" :key="one.id" :value="i">{{ name(one) }}</option>
          </select></label
        >
        <span role="group" aria-label="How they are compared" class="ways">
          <button v-for="one in ways" :key="one" :aria-pressed="way === one" @click="way = one">{{ one }}</button>
        </span>
      </div>
      <p role="status">{{ said }}</p>
      <p v-for="finding in findings" :key="finding" class="amber">{{ finding }}</p>
      <div v-if="way === 'side by side'" class="sides">
        <PictureStage v-for="(one, i) in [a, b]" :key="i" :size="size" :label="one ? name(one) : ''">
          <img :src="address(one)" alt="" />
        </PictureStage>
      </div>
      <PictureStage v-else :size="size" :label="`${way}: ${said}`">
        <img :src="address(a)" alt="" />
        <img v-if="way === 'swipe'" :src="address(b)" alt="" :style="{ clipPath: `inset(0 0 0 ${cut}%)` }" />
        <canvas v-if="way === 'difference' && compared" ref="canvas" />
        <svg
          v-if="way === 'difference' && compared"
          :viewBox="`0 0 ${compared.width} ${compared.height}`"
          aria-hidden="true"
        >
          <rect
            v-for="(one, i) in compared.regions"
            :key="i"
            :x="one.x"
            :y="one.y"
            :width="one.width"
            :height="one.height"
          />
        </svg>
      </PictureStage>
      <label v-if="way === 'swipe'" class="cut"
        >second from <input v-model.number="cut" type="range" min="0" max="100" /> on</label
      >
    </template>
  </section>
</template>

<style scoped>
.compare {
  display: grid;
  gap: 8px;
  font-size: 12.5px;
}
.pick {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
}
select {
  font: inherit;
  color: inherit;
  background: var(--ground);
  border: 1px solid var(--line);
  max-width: 150px;
}
.ways {
  display: flex;
}
.ways button {
  border: 1px solid var(--line);
  background: var(--ground);
  cursor: pointer;
  font-size: 12px;
}
.ways button[aria-pressed='true'] {
  background: var(--ink);
  color: var(--paper);
}
.sides {
  display: grid;
  gap: 8px;
}
canvas {
  opacity: 0.8;
}
rect {
  fill: none;
  stroke: #b0412b;
  stroke-width: 3;
}
.cut {
  display: flex;
  gap: 8px;
}
.cut input {
  flex: 1;
}
</style>
