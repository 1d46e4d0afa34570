<script setup lang="ts">
import Button from 'primevue/button';
import InputText from 'primevue/inputtext';
import Textarea from 'primevue/textarea';
import { computed, ref, watch } from 'vue';
import { causeNames } from '../../core/causes/cause.ts';
import type { Decision, DecisionKind } from '../../core/families/decision.ts';
import { familyStates } from '../../core/families/verdict.ts';
import type { Verdict } from '../types.ts';
import { moment } from '../words.ts';
import PinnedRow from './PinnedRow.vue';

/** The verdict on a family: its cause, who has it, where it stands, what belongs to it. Every change is a decision that can be taken back. */
const props = defineProps<{ verdict: Verdict }>();
const emit = defineEmits<{ decide: [made: Pick<Decision, 'kind'> & Partial<Decision>]; undo: [] }>();
const decide = (kind: DecisionKind, text: string, until?: number): void =>
  emit('decide', { kind, text, ...(until === undefined ? {} : { until }) });

const note = ref('');
const own = ref('');
const owner = ref('');
const link = ref('');
const wrong = ref('');
/** What was typed and not kept yet stays when the dossier is loaded anew. */
const follow = (field: { value: string }, kept: () => string): void => {
  watch(
    kept,
    (now, before) => {
      if (field.value === (before ?? '')) field.value = now;
    },
    { immediate: true },
  );
};
follow(note, () => props.verdict.note);
follow(own, () => props.verdict.ownCause ?? '');
follow(owner, () => props.verdict.owner);

/** A quarantine asks for its end: two weeks, when nothing else is said. */
const fortnight = 14 * 86_400_000;
const dayOf = (at: number): string => new Date(at).toISOString().slice(0, 10);
const over = computed(() => props.verdict.until !== null && props.verdict.until < Date.now());

function setState(state: string): void {
  if (state === 'quarantined') decide('state', state, endOfDay(dayOf(Date.now() + fortnight)));
  else decide('state', state);
}
const endOfDay = (day: string): number => new Date(`${day}T23:59:59`).getTime();
function setUntil(day: string): void {
  if (/^\d{4}-\d\d-\d\d$/.test(day)) decide('state', 'quarantined', endOfDay(day));
}
function addLink(): void {
  const address = link.value.trim();
  wrong.value = /^https?:\/\/\S+$/.test(address) ? '' : 'An address begins with http:// or https:// and has no spaces.';
  if (wrong.value) return;
  decide('link', address);
  link.value = '';
}
/** Back to the keys of the screen. */
const leave = (event: KeyboardEvent): void => (event.target as HTMLElement).blur();
const place = (address: string): string => address.replace(/^https?:\/\//, '').replace(/\/$/, '');
</script>

<template>
  <section class="panel" aria-label="Verdict" @keydown.escape="leave">
    <h2>Verdict</h2>
    <p class="verdict">
      <template v-if="verdict.confirmed"
        >The cause is <b>{{ causeNames[verdict.confirmed].toLowerCase() }}</b>.</template
      >
      <template v-else-if="verdict.ownCause"
        >The cause is <b>{{ verdict.ownCause }}</b>.</template
      >
      <template v-else>No cause is confirmed yet.</template>
    </p>
    <p v-if="verdict.cameBack" class="came brick" role="status">
      It came back: it was called mended on {{ moment(verdict.since!) }}, and failed so again in
      <RouterLink :to="`/attempts/${verdict.cameBack.attempt}`">{{ verdict.cameBack.run }}</RouterLink><template
        v-if="verdict.cameBack.commit"
      >
        at commit {{ verdict.cameBack.commit }}</template
      >, {{ moment(verdict.cameBack.at) }}.
    </p>
    <p v-if="verdict.state === 'quarantined' && over" class="came brick" role="status">
      Its quarantine ended on {{ moment(verdict.until!) }}.
    </p>
    <div class="pair">
      <label
        ><span class="soft">State</span>
        <select id="state" :value="verdict.state" @change="setState(($event.target as HTMLSelectElement).value)">
          <option v-for="state in familyStates" :key="state">{{ state }}</option>
        </select></label
      >
      <label v-if="verdict.state === 'quarantined'"
        ><span class="soft">until</span>
        <input
          type="date"
          :value="verdict.until === null ? '' : dayOf(verdict.until)"
          @change="setUntil(($event.target as HTMLInputElement).value)"
      /></label>
      <form v-else @submit.prevent="decide('owner', owner.trim())">
        <label for="owner" class="soft">Owner</label>
        <InputText
          id="owner"
          v-model="owner"
          size="small"
          placeholder="nobody yet"
          @blur="owner.trim() !== verdict.owner && decide('owner', owner.trim())"
        />
      </form>
    </div>
    <form class="line" @submit.prevent="decide('own', own.trim())">
      <label for="own" class="soft">Confirm a cause in your own words</label>
      <span class="acts">
        <InputText id="own" v-model="own" size="small" fluid placeholder="the desk’s clock is an hour off" />
        <Button
          type="submit"
          :label="own.trim() || !verdict.ownCause ? 'Confirm' : 'Withdraw'"
          size="small"
          severity="secondary"
          :disabled="own.trim() === (verdict.ownCause ?? '')"
        />
      </span>
    </form>
    <div class="line">
      <label for="note" class="soft">Note for whoever comes next</label>
      <Textarea
        id="note"
        v-model="note"
        rows="2"
        auto-resize
        fluid
        placeholder="What was seen, who has it, what is planned"
        @keydown.ctrl.enter="note !== verdict.note && decide('note', note)"
      />
    </div>
    <div v-if="verdict.moments.length" class="line">
      <h3 class="soft">Moments</h3>
      <PinnedRow
        v-for="pinned in verdict.moments"
        :key="pinned.id"
        :pinned="pinned"
        @unpin="emit('decide', { kind: 'unpin', about: pinned.id })"
      />
    </div>
    <form class="line" @submit.prevent="addLink">
      <label for="link" class="soft">Links</label>
      <ul v-if="verdict.links.length">
        <li v-for="address in verdict.links" :key="address">
          <a :href="address" target="_blank" rel="noopener noreferrer" class="one-line">{{ place(address) }}</a>
          <button
            type="button"
            class="plain sea"
            :aria-label="`Remove ${place(address)}`"
            @click="decide('unlink', address)"
          >
            remove
          </button>
        </li>
      </ul>
      <span class="acts">
        <InputText id="link" v-model="link" size="small" fluid placeholder="https://" :invalid="wrong !== ''" />
        <Button type="submit" label="Add" size="small" severity="secondary" :disabled="!link.trim()" />
      </span>
      <span v-if="wrong" class="brick" role="alert">{{ wrong }}</span>
    </form>
    <div class="acts">
      <Button label="Keep note" size="small" :disabled="note === verdict.note" @click="decide('note', note)" />
      <Button
        label="Undo last decision"
        size="small"
        severity="secondary"
        variant="outlined"
        :disabled="!verdict.last"
        @click="emit('undo')"
      />
    </div>
  </section>
</template>

<style scoped>
select,
input[type='date'] {
  font: inherit;
  font-size: 13px;
  color: var(--ink);
  background: var(--paper);
  border: 1px solid var(--timber);
  border-radius: 3px;
  padding: 4px 6px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.pair label,
.pair form {
  display: grid;
  gap: 2px;
}
.line {
  display: grid;
  gap: 3px;
}
.line label,
.line h3,
.pair .soft {
  font-size: 12px;
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
}
ul {
  list-style: none;
  font-size: 13px;
}
li {
  display: flex;
  gap: 10px;
  justify-content: space-between;
}
.came {
  font-size: 13px;
}
</style>
