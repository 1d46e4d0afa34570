<script setup lang="ts">
import { ref } from 'vue';
import type { PolicyPreview, Voice } from '../../core/rules/preview.ts';
import { plural } from '../words.ts';

/** What a policy would have done to the last runs: how many attempts, by which messages, and where one is to be seen. */
const props = defineProps<{ told: PolicyPreview; now: number; off: boolean }>();
defineEmits<{ exempt: [voice: Voice] }>();
const few = 6;
const all = ref(false);
const share = ({ passed }: Voice): number => (props.told.wouldFail ? (passed / props.told.wouldFail) * 100 : 0);
</script>

<template>
  <div class="would">
    <p class="sum" role="status">
      <b>{{ told.words }}</b>
    </p>
    <p class="soft">
      As the rules are now: {{ now }}.<template v-if="off"> Switched off, the policy tells nothing of this.</template>
    </p>
    <ol v-if="told.voices.length">
      <li v-for="voice in told.voices.slice(0, all ? undefined : few)" :key="voice.words">
        <i class="bar" :style="{ width: `${share(voice)}%` }" aria-hidden="true" />
        <span class="count">{{ voice.passed }}</span>
        <RouterLink
          class="one-line"
          :to="{
            path: `/attempts/${voice.example.attempt}`,
            query: { at: voice.example.at, show: voice.example.event },
          }"
          :title="voice.words"
          >{{ voice.words }}</RouterLink
        >
        <span class="soft"
          >{{ plural(voice.tests, 'test')
          }}<template v-if="voice.attempts > voice.passed"
            >, {{ voice.attempts - voice.passed }} failed anyhow</template
          ></span
        >
        <button
          type="button"
          class="plain sea"
          :aria-label="`Let pass: ${voice.words}`"
          @click="$emit('exempt', voice)"
        >
          let pass
        </button>
      </li>
    </ol>
    <button v-if="told.voices.length > few" type="button" class="plain sea" @click="all = !all">
      {{ all ? 'fewer' : `all ${told.voices.length}` }}
    </button>
  </div>
</template>

<style scoped>
.would {
  display: grid;
  gap: 5px;
  align-content: start;
}
.sum b {
  font-weight: 600;
  font-size: 14px;
}
p.soft,
button {
  font-size: 12px;
}
li {
  position: relative;
  display: grid;
  grid-template-columns: 34px minmax(0, 1fr) auto auto;
  gap: 10px;
  align-items: baseline;
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
  font-size: 12.5px;
}
.bar {
  position: absolute;
  left: 0;
  bottom: -1px;
  height: 3px;
  background: var(--brick);
}
.count {
  text-align: right;
  font-weight: 600;
}
</style>
