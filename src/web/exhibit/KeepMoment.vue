<script setup lang="ts">
import Button from 'primevue/button';
import Dialog from 'primevue/dialog';
import { computed, ref } from 'vue';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import type { Decision, Pin } from '../../core/families/decision.ts';
import type { Verdict } from '../../core/families/verdict.ts';
import { useActs } from '../act.ts';
import { api } from '../api.ts';
import { useBench } from '../stores/bench.ts';
import { useSay } from '../tell.ts';
import type { Family } from '../types.ts';
import { seconds } from '../words.ts';
import { pinWords } from './pin-words.ts';

/** Keeps what the bench looks at with a family: as a note, or for or against a cause in somebody's own words. */
const open = defineModel<boolean>('open', { required: true });
const bench = useBench();
const say = useSay();
const { busy, act } = useActs();

/** The attempt's own family; of a passing attempt those that its test fell into. */
const families = ref<Family[]>();
const familyId = ref('');
const family = computed(() => families.value?.find(({ id }) => id === familyId.value));
const hypotheses = computed(() => family.value?.verdict.hypotheses.filter(({ state }) => state !== 'struck out') ?? []);
const as = ref<'moment' | 'speaks-for' | 'speaks-against'>('moment');
/** The hypothesis it speaks on; 0 for one that is yet to be written down. */
const about = ref(0);
const fresh = ref('');
const text = ref('');

/** What is meant: what was pointed at, else what shows the chosen clue while the level stands there, else the step at the level. */
const meant = computed((): { event?: EvidenceEvent; words: string } => {
  const { pointed, chosen, byId, level, poles } = bench;
  const event = pointed ? byId.get(pointed) : undefined;
  if (event) return { event, words: pinWords(event) };
  if (chosen && Math.abs(chosen.at - level) < 1) {
    const shows = byId.get(chosen.evidence[0] ?? '');
    return { ...(shows ? { event: shows } : {}), words: chosen.summary };
  }
  const step = poles.planks.findLast((one) => one.at <= level);
  return step ? { event: step, words: pinWords(step) } : { words: '' };
});
const what = computed(() => meant.value.words);
const ready = computed(() =>
  Boolean(family.value && (as.value === 'moment' ? text.value.trim() : about.value || fresh.value.trim())),
);

async function asked(): Promise<void> {
  const { attempt } = bench;
  if (!attempt) return;
  families.value = undefined;
  text.value = '';
  fresh.value = '';
  await act(async () => {
    const own = attempt.familyId ? [await api<Family>('GET', `/families/${attempt.familyId}`)] : undefined;
    families.value =
      own ??
      (await api<{ families: Family[] }>('GET', `/families?test=${encodeURIComponent(attempt.test.id)}`)).families;
    familyId.value = families.value[0]?.id ?? '';
    about.value = hypotheses.value[0]?.id ?? 0;
  }, 'The families could not be asked for');
}

const keep = (): Promise<void> =>
  act(async () => {
    const { attempt } = bench;
    if (!attempt || !ready.value) return;
    const decide = (kind: Decision['kind'], more: object): Promise<{ verdict: Verdict }> =>
      api('POST', `/families/${familyId.value}/decisions`, { kind, ...more });
    const pin: Pin = {
      attempt: attempt.id,
      moment: Math.round(bench.level * 10) / 10,
      ...(meant.value.event ? { event: meant.value.event.id } : {}),
      ...(what.value ? { what: what.value.slice(0, 500) } : {}),
    };
    if (as.value === 'moment') await decide('moment', { text: text.value, pin });
    else {
      const made = about.value ? undefined : await decide('suppose', { text: fresh.value });
      const hypothesis = made?.verdict.hypotheses.at(-1)?.id ?? about.value;
      await decide(as.value, { text: text.value, about: hypothesis, pin });
    }
    open.value = false;
    say('Kept with the dossier');
  }, 'It was not kept');
</script>

<template>
  <Dialog v-model:visible="open" modal header="Keep this moment" @show="asked">
    <form class="form" @submit.prevent="keep">
      <p>
        {{ seconds(bench.level) }} of {{ bench.attempt?.test.title }}, attempt {{ bench.attempt?.number
        }}<template v-if="what">: {{ what }}</template>
      </p>
      <p v-if="families && !families.length" class="soft">
        No test run has failed with this test yet, so there is no dossier to keep it with.
      </p>
      <template v-else-if="families">
        <label v-if="families.length > 1"
          >With the dossier
          <select v-model="familyId">
            <option v-for="one in families" :key="one.id" :value="one.id">{{ one.sentence }}</option>
          </select></label
        >
        <fieldset>
          <legend>As</legend>
          <label><input v-model="as" type="radio" value="moment" autofocus /> a note with its moment</label>
          <label><input v-model="as" type="radio" value="speaks-for" /> evidence for a cause of your own</label>
          <label><input v-model="as" type="radio" value="speaks-against" /> evidence against one</label>
        </fieldset>
        <fieldset v-if="as !== 'moment'">
          <legend>Which cause</legend>
          <label v-for="one in hypotheses" :key="one.id"
            ><input v-model="about" type="radio" name="about" :value="one.id" /> {{ one.text }}</label
          >
          <label><input v-model="about" type="radio" name="about" :value="0" /> another, not written down yet</label>
          <input
            v-if="!about"
            v-model="fresh"
            class="words"
            maxlength="500"
            aria-label="The cause in your own words"
            placeholder="the desk’s clock is an hour off"
          />
        </fieldset>
        <label class="line"
          ><span>{{ as === 'moment' ? 'What is to be seen here' : 'What it shows, if that is not plain' }}</span>
          <input v-model="text" class="words" maxlength="500" />
        </label>
        <div class="acts">
          <Button type="submit" label="Keep it" size="small" :disabled="busy || !ready" />
          <Button type="button" label="Leave it" size="small" severity="secondary" @click="open = false" />
        </div>
      </template>
    </form>
  </Dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
  width: 520px;
  max-width: 82vw;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 5px;
}
legend {
  font-weight: 600;
  padding-bottom: 4px;
}
.line {
  display: grid;
  gap: 3px;
}
.words,
select {
  font: inherit;
  color: var(--ink);
  background: var(--ground);
  border: 1px solid var(--line);
  padding: 4px 7px;
  width: 100%;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
