<script setup lang="ts">
import { computed } from 'vue';
import type { DeliveryView, IntakeResult } from '../../core/records.ts';
import { fateCount, fateOrder, megabytes, plural } from '../words.ts';

/** One delivery: how far it is, then what became of every file. */
export interface Delivery {
  number: number;
  names: string[];
  count: number;
  /** What the server says of it, once it was announced there. */
  view?: DeliveryView;
  result?: IntakeResult;
  error?: string;
}
const props = defineProps<{ delivery: Delivery }>();
defineEmits<{ stop: []; close: [] }>();
const view = computed(() => props.delivery.view);
/** Sent in part, by somebody who has not come back. */
const left = computed(() => view.value?.state === 'receiving' && !view.value.here);
const doing = computed(() =>
  left.value ? 'Sent in part' : view.value?.state === 'receiving' ? 'Sending' : (view.value?.doing ?? 'Sending'),
);
const share = computed(() => {
  const { state, sent = 0, size = 0, done = 0, of = null } = view.value ?? {};
  if (!state || state === 'receiving') return size ? sent / size : 0;
  return of ? Math.min(1, done / of) : null;
});
const far = computed(() => {
  const { state, sent = 0, size = 0, done = 0, fates = {} } = view.value ?? {};
  if (!state || state === 'receiving') return size ? `${megabytes(sent)} of ${megabytes(size)}` : '';
  const counts = fateOrder.flatMap((fate) => (fates[fate] ? fateCount(fate, fates[fate]) : []));
  return counts.join(', ') || (done ? `${done.toLocaleString('en')} read` : '');
});
const says = computed(() => {
  const { result } = props.delivery;
  if (!result) return '';
  const parts = [plural(result.attempts, 'attempt')];
  if (result.attached) parts.push(`${plural(result.attached, 'file')} placed`);
  if (result.unmatched.length) parts.push(`${result.unmatched.length} not placed`);
  if (result.problems.length) parts.push(plural(result.problems.length, 'problem'));
  return result.attempts + result.attached + result.unmatched.length === 0
    ? 'Nothing new: all of it is here already'
    : parts.join(', ');
});
const lines = computed(() => [
  ...(props.delivery.result?.unmatched.map(({ name, why }) => ({ name, text: why, kind: 'not placed' })) ?? []),
  ...(props.delivery.result?.problems.map(({ name, line, message }) => ({
    name: line ? `${name}, line ${line}` : name,
    text: message,
    kind: 'problem',
  })) ?? []),
]);
</script>

<template>
  <section class="delivery" :class="{ failed: delivery.error, ended: delivery.result }" aria-live="polite">
    <div class="line">
      <strong>{{ delivery.error ? 'Not taken in' : delivery.result ? 'Taken in' : doing }}</strong>
      <span class="soft one-line"
        ><template v-if="delivery.names.length"
          >{{ delivery.names.join(', ')
          }}<template v-if="delivery.count > delivery.names.length">
            and {{ delivery.count - delivery.names.length }} more</template
          ></template
        ><template v-else
          >{{ plural(delivery.count, 'file') }}; whoever sent them goes on by sending the same again</template
        ></span
      >
      <span v-if="!delivery.result && !delivery.error" class="how"
        ><i class="track"><b :style="{ width: `${(share ?? 0) * 100}%` }" :class="{ going: share === null }" /></i
        ><span class="soft far">{{ far }}</span></span
      >
      <span v-else-if="delivery.error" class="brick">{{ delivery.error }}</span>
      <span v-else
        >{{ says
        }}<template v-if="delivery.result?.runId">
          · <RouterLink :to="`/runs/${delivery.result.runId}`">open the run</RouterLink></template
        ></span
      >
      <RouterLink v-if="view?.here && delivery.count > 1" :to="`/deliveries/${view.id}`">file by file</RouterLink>
      <button v-if="!delivery.result && !delivery.error" class="plain sea" @click="$emit('stop')">
        {{ left ? 'Forget it' : 'Stop' }}
      </button>
      <button v-else class="plain sea" @click="$emit('close')">Close</button>
    </div>
    <ul v-if="lines.length">
      <li v-for="(one, i) in lines.slice(0, 30)" :key="i">
        <span class="mono one-line" :title="one.name">{{ one.name }}</span><span class="soft">{{ one.text }}</span>
      </li>
      <li v-if="lines.length > 30" class="soft">and {{ lines.length - 30 }} more, of the same delivery</li>
    </ul>
  </section>
</template>

<style scoped>
.delivery {
  background: var(--paper);
  border: 1px solid var(--line);
  border-left: 4px solid var(--timber);
  margin-bottom: 12px;
  padding: 8px 14px;
}
.delivery.ended {
  border-left-color: var(--sea);
}
.delivery.failed {
  border-left-color: var(--brick);
}
.line {
  display: flex;
  gap: 14px;
  align-items: center;
}
.line > strong {
  max-width: 300px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.line > .one-line {
  flex: 1;
  min-width: 0;
}
.how {
  display: flex;
  gap: 10px;
  align-items: center;
  min-width: 330px;
}
.track {
  flex: 1;
  height: 7px;
  background: var(--line);
  overflow: hidden;
}
.far {
  min-width: 150px;
  white-space: nowrap;
}
.track b {
  display: block;
  height: 100%;
  background: var(--timber);
}
.track b.going {
  width: 100% !important;
  background: repeating-linear-gradient(90deg, var(--timber) 0 12px, var(--timber-pale) 12px 20px);
}
ul {
  margin-top: 6px;
  max-height: 220px;
  overflow: auto;
}
li {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 12px;
  padding: 2px 0;
  font-size: 12px;
}
</style>
