<script setup lang="ts">
import { computed } from 'vue';
import { causeNames } from '../../core/causes/cause.ts';
import { awaitsVerdict } from '../../core/families/verdict.ts';
import type { Verdict } from '../types.ts';

/** What people decided about a family, in a few words. */
const props = defineProps<{ verdict: Verdict }>();
const cause = computed(() => {
  const { confirmed, ownCause, cleared, note, state } = props.verdict;
  if (confirmed) return `confirmed: ${causeNames[confirmed].toLowerCase()}`;
  if (ownCause) return `confirmed: ${ownCause}`;
  if (state !== 'open') return '';
  if (cleared.length) return `${cleared.length} cleared, awaits a verdict`;
  return note ? 'noted, awaits a verdict' : 'awaits a verdict';
});
const state = computed(() => {
  const { cameBack, state: is, until } = props.verdict;
  if (cameBack) return `came back in ${cameBack.run}`;
  if (is === 'quarantined' && until !== null)
    return `${until < Date.now() ? 'quarantine ended' : 'quarantined until'} ${new Date(until).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })}`;
  return is === 'open' ? '' : is;
});
const text = computed(() => [cause.value, state.value, props.verdict.owner].filter(Boolean).join(' · '));
const settled = computed(() => !awaitsVerdict(props.verdict, Date.now()));
</script>

<template>
  <span :class="verdict.cameBack ? 'brick' : settled ? 'sea' : 'soft'" :title="verdict.note || undefined"
    >{{ text }}<span v-if="verdict.note" class="note one-line">“{{ verdict.note }}”</span></span
  >
</template>

<style scoped>
.note {
  display: block;
  font-size: 11.5px;
  color: var(--soft);
}
</style>
