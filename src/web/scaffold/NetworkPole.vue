<script setup lang="ts">
import { computed } from 'vue';
import { useBench } from '../stores/bench.ts';
import { requestBars } from './drawing.ts';
import { px, useRoom } from './room.ts';

/** Requests in flight as bars beside each other; own hosts filled, outside hosts hollow, failures brick. */
const bench = useBench();
const { scale, column, inSight, isEvidence } = useRoom();
const bars = computed(() => requestBars(bench.poles.network, scale.value, column('network')));
const right = computed(() => column('network').left + column('network').width);
</script>

<template>
  <div>
    <template v-for="bar in inSight(bars)" :key="bar.id">
      <i
        class="request"
        :class="[bar.kind, { evidence: isEvidence(bar.id) }]"
        :style="{ top: px(bar.top), height: px(bar.height), left: px(bar.left) }"
        :title="bar.label"
      />
      <span
        v-if="bar.showLabel"
        class="request-label mono one-line"
        :style="{ top: px(bar.top - 2), left: px(bar.left + 11), maxWidth: px(right - bar.left - 16) }"
        :title="bar.label"
        >{{ bar.label }}</span
      >
    </template>
  </div>
</template>

<style scoped>
.request {
  position: absolute;
  width: 8px;
  background: var(--steel-deep);
}
.request.own {
  background: var(--timber);
}
.request.outside {
  background: none;
  border: 2px solid var(--steel-deep);
}
.request.failed {
  background: var(--brick);
}
.request-label {
  position: absolute;
  font-size: 10.5px;
  color: var(--soft);
  line-height: 15px;
}
</style>
