<script setup lang="ts">
import Button from 'primevue/button';
import Dialog from 'primevue/dialog';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useActs } from '../act.ts';
import { api } from '../api.ts';
import type { TestCommandView } from '../types.ts';
import { plural } from '../words.ts';

/** Asks how tests are to be run again, and starts it. */
const props = defineProps<{
  /** Which tests, each choice with its words; the first is offered. */
  choices: { words: string; tests: string[] }[];
  /** The run they are of. */
  run?: string;
}>();
const open = defineModel<boolean>('open', { required: true });
const router = useRouter();
const { busy, act } = useActs();
const commands = ref<TestCommandView[]>();
const choice = ref(0);
const by = ref('drills');
const times = ref(10);
const untilFails = ref(false);
const chosen = computed(() => props.choices[choice.value] ?? props.choices[0]);
const many = computed(() => chosen.value?.tests.length ?? 0);
const command = computed(() => commands.value?.find(({ name }) => name === by.value));
/** What is to be written where, ready to be copied. */
const example = `{ "commands": [{
    "name": "ferry tests", "folder": "/home/me/ferry",
    "program": "npm", "args": ["run", "e2e", "--", "--grep={filter}"],
    "reports": ["results"]
} ] }`;

async function asked(): Promise<void> {
  choice.value = 0;
  commands.value = undefined;
  const known = await api<{ commands: TestCommandView[] }>('GET', '/commands').catch(() => ({ commands: [] }));
  commands.value = known.commands;
  if (by.value !== 'drills' && !command.value) by.value = 'drills';
}
const start = (): Promise<void> =>
  act(async () => {
    const { id } = await api<{ id: string }>('POST', '/again', {
      tests: chosen.value!.tests,
      by: by.value,
      times: times.value,
      untilFails: untilFails.value,
      ...(props.run ? { run: props.run } : {}),
    });
    open.value = false;
    await router.push(`/again/${id}`);
  }, 'Nothing was started');
</script>

<template>
  <Dialog v-model:visible="open" modal header="Only these again" class="again-dialog" @show="asked">
    <form class="form" @submit.prevent="start">
      <fieldset>
        <legend>Which</legend>
        <label v-for="(one, i) in choices" :key="one.words">
          <input v-model="choice" type="radio" name="which" :value="i" :autofocus="i === 0" /> {{ one.words }}
        </label>
      </fieldset>
      <fieldset>
        <legend>By</legend>
        <label><input v-model="by" type="radio" name="by" value="drills" /> their drills, in Chromium</label>
        <label v-for="one in commands" :key="one.name">
          <input v-model="by" type="radio" name="by" :value="one.name" /> {{ one.name }}
          <code>{{ one.words }}</code>
        </label>
        <div v-if="commands && !commands.length" class="soft teach">
          <p>
            Your own test command can run them too. It is written into <code>iskel.settings.json</code> of the data
            folder, never here, and known at the next start:
          </p>
          <pre>{{ example }}</pre>
        </div>
      </fieldset>
      <fieldset>
        <legend>How often</legend>
        <label class="row"
          ><input v-model.number="times" type="number" min="1" max="1000" required /> times{{
            command ? '' : many > 1 ? ' each' : ''
          }}</label
        >
        <label><input v-model="untilFails" type="checkbox" /> or until it fails</label>
      </fieldset>
      <p class="soft">
        <template v-if="command"
          >It starts in <code>{{ command.folder }}</code>, with the recording address, a filter for
          {{ plural(many, 'test') }} and the repetition in its environment;
          {{
            command.reports.length
              ? `what it writes to ${command.reports.join(', ')} is taken in as a run`
              : 'it names no reports'
          }}.</template
        >
        <template v-else
          >A drill does what the test did, from its newest failing attempt; tests that were never recorded have
          none.</template
        >
      </p>
      <div class="acts">
        <Button
          type="submit"
          :label="`Run ${plural(many, 'test')} again`"
          size="small"
          :disabled="busy || !many || !(times >= 1)"
        />
        <Button type="button" label="Leave it" size="small" severity="secondary" @click="open = false" />
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
  width: 560px;
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
label code {
  color: var(--soft);
  overflow-wrap: anywhere;
}
.row input {
  font: inherit;
  width: 72px;
  color: var(--ink);
  background: var(--ground);
  border: 1px solid var(--line);
  padding: 3px 6px;
}
.teach pre {
  background: var(--ground);
  border: 1px solid var(--line);
  padding: 6px 10px;
  overflow: auto;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
