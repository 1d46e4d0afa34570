<script setup lang="ts">
import Button from 'primevue/button';
import type { Days, Keeping, KeepingTerm } from '../../core/keeping/keeping.ts';
import { sizeText } from '../../core/keeping/words.ts';
import { api } from '../api.ts';
import { useActs } from '../act.ts';
import { useLoaded } from '../loaded.ts';
import type { KeepingView, RulesPreview } from '../types.ts';
import { moment, plural } from '../words.ts';

/** How long evidence is kept, what the folder may take, and what letting go of the rest would come to. */
defineProps<{ told: RulesPreview['keeping'] | undefined }>();
const keeping = defineModel<Keeping>({ required: true });
const { busy, act } = useActs();
const { shown: view, load } = useLoaded(
  () => api<KeepingView>('GET', '/keeping'),
  ({ type }) => type === 'keeping',
  500,
);

const daysOf = (text: string): Days => (text.trim() === '' ? null : Math.max(0, Math.round(Number(text)) || 0));
const valueOf = (event: Event): string => (event.target as HTMLInputElement).value;
const blank = (): KeepingTerm => ({
  run: '',
  branch: '',
  failing: { pictures: null, rest: null },
  passing: { pictures: 30, rest: 90, oneIn: 1 },
});
const add = (): void => void keeping.value.terms.push(blank());
const remove = (i: number): void => void keeping.value.terms.splice(i, 1);
const tidy = (): Promise<void> =>
  act(async () => {
    await api(view.value?.running ? 'DELETE' : 'POST', '/keeping');
    await load();
  }, 'It could not be begun');
const goOn = (): Promise<void> =>
  act(async () => {
    await api('POST', '/keeping', { sure: true });
    await load();
  }, 'It could not be begun');
const columns = ['failing', 'passing'] as const;
</script>

<template>
  <section id="keeping" class="tried" aria-label="Keeping">
    <div class="form">
      <h2>Keeping</h2>
      <p class="soft small">
        First pictures and videos go, then the rest; what was found in an attempt always stays. Empty is for ever.
      </p>
      <table v-if="keeping.terms.length">
        <thead>
          <tr class="soft">
            <th scope="col" rowspan="2">runs</th>
            <th scope="col" rowspan="2">branch</th>
            <th scope="colgroup" colspan="2">days, failing</th>
            <th scope="colgroup" colspan="2">days, passing</th>
            <th scope="col" rowspan="2">one in</th>
            <td rowspan="2" />
          </tr>
          <tr class="soft">
            <template v-for="of in columns" :key="of">
              <th scope="col">pictures</th>
              <th scope="col">rest</th>
            </template>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(term, i) in keeping.terms" :key="i">
            <td><input v-model="term.run" :aria-label="`Runs of term ${i + 1}`" placeholder="all" /></td>
            <td><input v-model="term.branch" :aria-label="`Branch of term ${i + 1}`" placeholder="all" /></td>
            <template v-for="of in columns" :key="of">
              <td v-for="what in ['pictures', 'rest'] as const" :key="what">
                <input
                  type="number"
                  min="0"
                  :value="term[of][what] ?? ''"
                  :aria-label="`Days for ${what} of ${of} attempts, term ${i + 1}`"
                  @change="term[of][what] = daysOf(valueOf($event))"
                />
              </td>
            </template>
            <td>
              <input
                type="number"
                min="1"
                :value="term.passing.oneIn"
                :aria-label="`One in so many passing attempts keeps its pictures, term ${i + 1}`"
                @change="term.passing.oneIn = Math.max(1, daysOf(valueOf($event)) ?? 1)"
              />
            </td>
            <td><button type="button" class="plain sea" @click="remove(i)">remove</button></td>
          </tr>
        </tbody>
      </table>
      <p class="line">
        <button type="button" class="plain sea" @click="add">Add a term</button>
        <label
          >The whole folder may take
          <input
            type="number"
            min="0.001"
            step="any"
            class="budget"
            :value="keeping.budgetGb ?? ''"
            placeholder="any"
            aria-label="Budget in GB"
            @change="keeping.budgetGb = Number(valueOf($event)) > 0 ? Number(valueOf($event)) : null"
          />
          GB</label
        >
      </p>
    </div>
    <div class="form">
      <p v-if="told">
        <b>{{ told.words[0] }}</b>
      </p>
      <p v-for="words in told?.words.slice(1)" :key="words" :class="told!.short ? 'brick' : 'soft'" class="small">
        {{ words }}.
      </p>
      <template v-if="view">
        <p class="small soft" role="status">
          The folder takes {{ sizeText(view.folder.files + view.folder.database) }} now: files
          {{ sizeText(view.folder.files) }}, database {{ sizeText(view.folder.database) }}.
          <template v-if="view.running"
            >Letting go of {{ view.running.done
            }}{{ view.running.of === null ? '' : ` of ${view.running.of}` }} attempts.</template
          ><template v-else-if="view.last"
            >Last looked after on {{ moment(view.last.at) }}: {{ sizeText(view.last.freed) }} of
            {{ plural(view.last.attempts, 'attempt') }} freed<template v-if="view.last.stopped">, then stopped</template
            >.</template
          >
        </p>
        <p v-if="view.problem" class="brick" role="alert">
          It failed: {{ view.problem }}. Nothing that is kept was lost.
        </p>
        <p v-if="view.waits" class="amber waits" role="alert">
          {{ view.waits.words }}
          <Button label="Let it go" size="small" severity="secondary" :disabled="busy" @click="goOn" />
        </p>
        <p>
          <Button
            :label="view.running ? 'Stop' : 'Look after it now'"
            size="small"
            severity="secondary"
            variant="outlined"
            :disabled="busy"
            @click="tidy"
          />
        </p>
      </template>
    </div>
  </section>
</template>

<style scoped>
.tried {
  grid-template-columns: minmax(0, 7fr) minmax(0, 4fr);
}
b {
  font-weight: 600;
}
table {
  border-collapse: collapse;
}
th {
  font-weight: 400;
  font-size: 11.5px;
  text-align: left;
  padding-right: 6px;
}
td {
  padding: 2px 6px 2px 0;
}
input {
  font: inherit;
  font-size: 12px;
  color: var(--ink);
  background: var(--paper);
  border: 1px solid var(--timber);
  border-radius: 3px;
  padding: 3px 6px;
  width: 100%;
}
input[type='number'] {
  width: 74px;
}
.line {
  display: flex;
  gap: 24px;
  align-items: baseline;
}
</style>
