<script setup lang="ts">
import { computed } from 'vue';
import type { Advice } from '../../core/remedies/advice.ts';
import { causeNames } from '../../core/causes/cause.ts';
import { seconds } from '../words.ts';

/** What to do about the suspects that stand, each with what it is drawn from, which opens on the bench. */
const props = defineProps<{
  advice: readonly Omit<Advice, 'change'>[];
  /** The attempt it was drawn for. */
  attempt: string;
  from: { passing: number; failing: number };
  /** On the bench of that attempt its own evidence is shown in place. */
  here?: boolean;
}>();
/** The cause is named where there is more than one. */
const several = computed(() => new Set(props.advice.map(({ cause }) => cause)).size > 1);
const emit = defineEmits<{ show: [event: string, at: number] }>();
const place = (one: Advice['shown'][number]): string =>
  `/attempts/${one.attempt}?at=${one.at.toFixed(1)}&show=${one.event}`;
const own = (one: Advice['shown'][number]): boolean => one.attempt === props.attempt;
</script>

<template>
  <ol v-if="advice.length" class="advice">
    <li v-for="one in advice" :key="one.text">
      <b>{{ one.text }}</b>
      <span class="soft"
        ><template v-if="several">{{ causeNames[one.cause] }}. </template>{{ one.because }}</span
      >
      <span class="shown">
        <template v-for="shown in one.shown" :key="`${shown.attempt} ${shown.event}`">
          <button v-if="here && own(shown)" class="plain sea" @click="emit('show', shown.event, shown.at)">
            here at {{ seconds(shown.at) }}
          </button>
          <RouterLink v-else :to="place(shown)"
            >{{ own(shown) ? 'the failing attempt' : 'a passing attempt' }} at {{ seconds(shown.at) }}</RouterLink
          >
        </template>
      </span>
    </li>
  </ol>
  <p v-else class="soft">
    {{
      from.passing
        ? 'The attempts show nothing that would remedy it. Clear a suspect, or look at the contrast.'
        : 'No passing attempt of this test is known to draw a remedy from. One recorded through /wd is enough to begin with.'
    }}
  </p>
</template>

<style scoped>
.advice {
  list-style: none;
  display: grid;
  gap: 10px;
}
li {
  display: grid;
  gap: 2px;
  border-left: 3px solid var(--sea);
  padding-left: 9px;
}
b {
  font-weight: 600;
}
.shown {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  font-size: 12px;
}
</style>
