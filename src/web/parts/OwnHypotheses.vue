<script setup lang="ts">
import Button from 'primevue/button';
import Dialog from 'primevue/dialog';
import InputText from 'primevue/inputtext';
import { ref } from 'vue';
import type { Hypothesis } from '../../core/families/hypotheses.ts';
import type { Decision } from '../../core/families/decision.ts';
import type { Verdict } from '../../core/families/verdict.ts';
import type { SeriesView } from '../types.ts';
import { moment } from '../words.ts';
import PinnedRow from './PinnedRow.vue';

/** Causes in somebody's own words, each with what was pinned for and against it. */
const props = defineProps<{ verdict: Verdict; series: readonly SeriesView[] }>();
const emit = defineEmits<{ decide: [made: Pick<Decision, 'kind'> & Partial<Decision>] }>();

const fresh = ref('');
function suppose(): void {
  emit('decide', { kind: 'suppose', text: fresh.value.trim() });
  fresh.value = '';
}
/** What is asked about one of them: why it is struck out, or which trials speak on it. */
const asked = ref<{ what: 'strike' | 'trials'; about: Hypothesis } | null>(null);
const text = ref('');
const side = ref<'speaks-for' | 'speaks-against'>('speaks-for');
const chosen = ref('');
function ask(what: 'strike' | 'trials', about: Hypothesis): void {
  text.value = '';
  chosen.value = props.series[0]?.id ?? '';
  asked.value = { what, about };
}
function answer(): void {
  const { what, about } = asked.value!;
  if (what === 'strike') emit('decide', { kind: 'strike', about: about.id, text: text.value.trim() });
  else emit('decide', { kind: side.value, about: about.id, text: text.value.trim(), pin: { series: chosen.value } });
  asked.value = null;
}
const trialWords = ({ failed, done, createdAt, under }: SeriesView): string =>
  `${failed} of ${done} failed so${under ? `, ${under}` : ''}, ${moment(createdAt)}`;
</script>

<template>
  <section class="own" aria-label="Causes of your own">
    <h2>Causes of your own</h2>
    <p v-if="!verdict.hypotheses.length" class="soft">
      None of the suspects is it? Write down what you think. On a bench, J pins what you look at for or against it;
      trials are pinned here.
    </p>
    <article v-for="one in verdict.hypotheses" :key="one.id" class="row" :aria-label="one.text">
      <div class="name">
        <b :class="{ struck: one.state === 'struck out' }">{{ one.text }}</b>
        <p class="soft">{{ one.state }}{{ one.reason ? `: ${one.reason}` : '' }}</p>
        <p class="acts">
          <button
            v-if="one.state !== 'confirmed'"
            class="plain sea"
            @click="emit('decide', { kind: 'own', about: one.id })"
          >
            Confirm
          </button>
          <button v-if="one.state === 'standing'" class="plain sea" @click="ask('strike', one)">Strike out</button>
          <button
            v-if="one.state !== 'standing'"
            class="plain sea"
            @click="emit('decide', { kind: 'restore', about: one.id })"
          >
            Let it stand again
          </button>
          <button v-if="series.length" class="plain sea" @click="ask('trials', one)">Pin trials</button>
        </p>
      </div>
      <div class="against">
        <PinnedRow
          v-for="pinned in one.against"
          :key="pinned.id"
          :pinned="pinned"
          :series="series"
          @unpin="emit('decide', { kind: 'unpin', about: pinned.id })"
        />
      </div>
      <div class="for">
        <PinnedRow
          v-for="pinned in one.for"
          :key="pinned.id"
          :pinned="pinned"
          :series="series"
          @unpin="emit('decide', { kind: 'unpin', about: pinned.id })"
        />
      </div>
    </article>
    <form class="fresh" @submit.prevent="suppose">
      <InputText
        v-model="fresh"
        size="small"
        fluid
        maxlength="500"
        aria-label="A cause in your own words"
        placeholder="What do you think it is?"
      />
      <Button
        type="submit"
        label="Write down"
        class="write"
        size="small"
        severity="secondary"
        :disabled="!fresh.trim()"
      />
    </form>
    <Dialog
      :visible="asked !== null"
      modal
      :header="asked?.what === 'trials' ? 'Pin trials' : 'Strike out'"
      :style="{ width: '30rem' }"
      @update:visible="asked = null"
    >
      <form v-if="asked" class="asked" @submit.prevent="answer">
        <p>{{ asked.about.text }}</p>
        <template v-if="asked.what === 'trials'">
          <label v-for="one in series" :key="one.id"
            ><input v-model="chosen" type="radio" name="series" :value="one.id" /> {{ trialWords(one) }}</label
          >
          <p class="sides">
            <label><input v-model="side" type="radio" value="speaks-for" /> speak for it</label>
            <label><input v-model="side" type="radio" value="speaks-against" /> speak against it</label>
          </p>
        </template>
        <label for="own-reason">{{
          asked.what === 'trials' ? 'What they show' : 'Why is it not this? The reason is kept with the dossier.'
        }}</label>
        <InputText id="own-reason" v-model="text" autofocus fluid maxlength="500" />
        <Button type="submit" :label="asked.what === 'trials' ? 'Pin them' : 'Strike it out'" />
      </form>
    </Dialog>
  </section>
</template>

<style scoped>
.own {
  padding: 14px 0 0;
  display: grid;
  gap: 6px;
}
.own > h2,
.own > p,
.fresh {
  padding: 0 13px;
}
.write {
  flex: none;
}
.row {
  display: grid;
  grid-template-columns: 239px minmax(0, 0.8fr) minmax(0, 1fr);
  border-bottom: 1px solid var(--line);
}
.name {
  padding: 8px 13px;
}
.name b {
  font-size: 13.5px;
  overflow-wrap: anywhere;
}
.struck {
  text-decoration: line-through;
  color: var(--soft);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  font-size: 12px;
  padding-top: 2px;
}
.against,
.for {
  padding: 9px 8px;
  display: grid;
  gap: 6px;
  align-content: start;
  min-width: 0;
}
.against {
  border-right: 2px solid var(--ink);
  text-align: right;
}
.fresh,
.sides {
  display: flex;
  gap: 10px;
}
.asked {
  display: grid;
  gap: 9px;
}
</style>
