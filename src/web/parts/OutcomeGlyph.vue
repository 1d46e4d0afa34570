<script setup lang="ts">
import { computed } from 'vue';

const props = defineProps<{ outcome: string; size?: number; silent?: boolean }>();
const size = computed(() => props.size ?? 12);
</script>

<template>
  <svg
    :width="size"
    :height="size"
    viewBox="0 0 12 12"
    class="glyph"
    :role="silent ? undefined : 'img'"
    :aria-hidden="silent || undefined"
    :aria-label="silent ? undefined : outcome"
  >
    <circle v-if="outcome === 'passed'" cx="6" cy="6" r="4.3" fill="none" stroke="var(--sea)" stroke-width="1.8" />
    <g v-else-if="outcome === 'doubtful'">
      <circle cx="6" cy="6" r="4.3" fill="none" stroke="var(--sea)" stroke-width="1.8" />
      <path d="M6 3.4 L8.6 6 L6 8.6 L3.4 6 Z" fill="var(--amber)" />
    </g>
    <g v-else-if="outcome === 'against the rules' || outcome === 'told of'">
      <circle cx="6" cy="6" r="4.3" fill="none" stroke="var(--sea)" stroke-width="1.8" />
      <path
        d="M0.6 6 H11.4"
        :stroke="outcome === 'told of' ? 'var(--amber)' : 'var(--brick)'"
        stroke-width="2.2"
        :stroke-dasharray="outcome === 'told of' ? '2.4 1.8' : undefined"
      />
    </g>
    <rect v-else-if="outcome === 'failed'" x="1.2" y="1.2" width="9.6" height="9.6" fill="var(--brick)" />
    <g v-else-if="outcome === 'flaky'">
      <path d="M6 0.6 L11.4 6 L6 11.4 L0.6 6 Z" fill="none" stroke="var(--amber)" stroke-width="1.3" />
      <path d="M6 0.6 L6 11.4 L0.6 6 Z" fill="var(--amber)" />
    </g>
    <path v-else-if="outcome === 'errored'" d="M6 0.8 L11.4 10.8 L0.6 10.8 Z" fill="var(--brick)" />
    <path v-else-if="outcome === 'skipped'" d="M1.5 6 H10.5" stroke="var(--steel-deep)" stroke-width="1.8" />
    <circle
      v-else-if="outcome === 'interrupted'"
      cx="6"
      cy="6"
      r="4.3"
      fill="none"
      stroke="var(--steel-deep)"
      stroke-width="1.8"
      stroke-dasharray="3 2.2"
    />
    <circle v-else cx="6" cy="6" r="1.8" fill="var(--steel-deep)" />
  </svg>
</template>

<style scoped>
.glyph {
  display: inline-block;
  vertical-align: -1.5px;
  flex: none;
}
</style>
