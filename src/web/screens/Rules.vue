<script setup lang="ts">
import Button from 'primevue/button';
import InputText from 'primevue/inputtext';
import { computed, ref } from 'vue';
import { consoleLevels, requestEnds } from '../../core/rules/standing-rules.ts';
import { riskKinds } from '../../core/risks/risk.ts';
import { riskNames } from '../../core/risks/words.ts';
import { useActs } from '../act.ts';
import { useKeys } from '../keys.ts';
import { useChanges } from '../live.ts';
import KeepingForm from '../parts/KeepingForm.vue';
import LinesField from '../parts/LinesField.vue';
import PolicyForm from '../parts/PolicyForm.vue';
import ReadingForm from '../parts/ReadingForm.vue';
import Trouble from '../parts/Trouble.vue';
import { policyNames } from '../../core/rules/against.ts';
import { useRulesDraft } from '../stores/rules-draft.ts';
import { moment, plural } from '../words.ts';

/** Standing rules: each with what it would have done to the last runs, before it is set. */
const rules = useRulesDraft();
const { busy, act } = useActs();
const error = ref<unknown>();
const load = (): Promise<void> =>
  rules.load().then(
    () => void (error.value = undefined),
    (problem: unknown) => void (error.value = problem),
  );
void load();
useChanges(
  ({ type }) => type === 'rules',
  () => void load(),
  2000,
);

const unreasoned = computed(() =>
  policyNames.flatMap((name) => rules.draft?.[name].exempt ?? []).some(({ reason }) => !reason.trim()),
);
const settable = computed(() => rules.changes.length > 0 && !rules.problem && !unreasoned.value);
const set = (): Promise<void> => act(() => rules.set(), 'The rules could not be set');
const undo = (to?: number): Promise<void> => act(() => rules.undo(to), 'It could not be taken back');
useKeys(
  [
    { keys: 'S', does: 'set the rules' },
    { keys: 'U', does: 'take the last change back' },
    { keys: 'X', does: 'drop what is not set' },
  ],
  (event) => {
    switch (event.key.toLowerCase()) {
      case 's':
        if (settable.value) void set();
        return true;
      case 'u':
        if (rules.versions.length) void undo();
        return true;
      case 'x':
        rules.discard();
        return true;
    }
    return false;
  },
);
const endWords = { '4xx': 'answered 400 to 499', '5xx': 'answered 500 to 599', failed: 'never answered' } as const;
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="rules.draft" class="rules">
    <div class="screen-head">
      <h1>Standing rules</h1>
      <p class="soft" role="status">
        <template v-if="rules.preview && !rules.trying"
          >Tried on {{ plural(rules.preview.attempts, 'attempt') }} with evidence, {{ rules.preview.passed }} of them
          passed, of the last {{ plural(rules.preview.runs, 'run') }}</template
        ><template v-else>Being tried on the last runs</template>
      </p>
    </div>
    <PolicyForm
      v-model="rules.draft.console"
      name="console"
      title="Console"
      says="What pages may not say while a test runs, though the test itself passes."
      :told="rules.preview?.console"
      :now="rules.preview?.now.console ?? 0"
    >
      <div class="choices" role="group" aria-label="Lines of level">
        <span class="soft">Lines of level</span>
        <span class="all">
          <label v-for="level in consoleLevels" :key="level"
            ><input v-model="rules.draft.console.levels" type="checkbox" :value="level" /> {{ level }}</label
          >
        </span>
      </div>
      <div class="choices" role="group" aria-label="Exceptions">
        <span class="soft">Exceptions</span>
        <span class="all">
          <label><input v-model="rules.draft.console.uncaught" type="checkbox" /> that nothing caught</label>
          <label
            ><input v-model="rules.draft.console.swallowed" type="checkbox" /> that the page or the test
            swallowed</label
          >
        </span>
      </div>
      <div class="choices" role="group" aria-label="Of">
        <span class="soft">Of</span>
        <span class="all">
          <label
            ><input v-model="rules.draft.console.from" type="radio" value="own" /> the application’s own scripts</label
          >
          <label><input v-model="rules.draft.console.from" type="radio" value="everywhere" /> all scripts</label>
        </span>
      </div>
    </PolicyForm>
    <PolicyForm
      v-model="rules.draft.requests"
      name="requests"
      title="Requests"
      says="Which of the application’s own requests may not go wrong, though the test does not mind."
      :told="rules.preview?.requests"
      :now="rules.preview?.now.requests ?? 0"
    >
      <div class="choices" role="group" aria-label="Requests">
        <span class="soft">Requests</span>
        <span class="all">
          <label v-for="end in requestEnds" :key="end"
            ><input v-model="rules.draft.requests.ends" type="checkbox" :value="end" /> {{ endWords[end] }}</label
          >
        </span>
      </div>
    </PolicyForm>
    <PolicyForm
      v-model="rules.draft.risks"
      name="risks"
      title="Tests that will flake"
      says="What a test may not do though it passes: it is told of under Next, and here a run can be made to fail by it."
      of="of these steps"
      every="every step"
      :told="rules.preview?.risks"
      :now="rules.preview?.now.risks ?? 0"
    >
      <div class="choices" role="group" aria-label="A test that">
        <span class="soft">A test that</span>
        <span class="all two">
          <label v-for="kind in riskKinds" :key="kind"
            ><input v-model="rules.draft.risks.kinds" type="checkbox" :value="kind" /> {{ riskNames[kind] }}</label
          >
        </span>
      </div>
    </PolicyForm>
    <KeepingForm v-model="rules.draft.keeping" :told="rules.preview?.keeping" />
    <section id="reading" class="tried" aria-label="Own code">
      <div class="form">
        <h2>Own code</h2>
        <LinesField
          id="frames-own"
          v-model="rules.draft.frames.own"
          label="Code of ours: a part of its path or name on each line"
          placeholder="pages/checkout"
        />
        <LinesField
          id="frames-library"
          v-model="rules.draft.frames.library"
          label="Code of libraries"
          placeholder="support/vendor"
        />
      </div>
      <div v-if="rules.preview" class="form">
        <p>
          <b>{{
            rules.preview.frames.changed
              ? `${rules.preview.frames.changed} of ${plural(rules.preview.frames.of, 'failure')} would be read at another line`
              : `Every one of ${plural(rules.preview.frames.of, 'failure')} is read at the line it is read at now`
          }}</b>
        </p>
        <p v-for="one in rules.preview.frames.examples" :key="one.attempt" class="small">
          <RouterLink :to="`/attempts/${one.attempt}`">{{ one.title }}</RouterLink>:
          <span class="mono">{{ one.before }} → {{ one.after }}</span>
        </p>
      </div>
    </section>
    <ReadingForm v-model="rules.draft" :told="rules.preview" />
    <section id="masks" class="tried" aria-label="Masks">
      <div class="form">
        <h2>Masks</h2>
        <LinesField
          id="mask-patterns"
          v-model="rules.draft.masks"
          label="What is never stored: a regular expression on each line"
          placeholder="LF-[0-9]{6}"
          hint="Passwords, tokens and card numbers are known by their shape. What is stored already stays."
        />
      </div>
      <div v-if="rules.preview" class="form">
        <template v-for="(mask, i) in rules.preview.masks" :key="i">
          <p v-if="mask">
            <b
              >Mask {{ i + 1 }} would have hidden {{ plural(mask.places, 'text') }} in {{ mask.attempts }} of the last
              {{ plural(mask.of, 'attempt') }}</b
            >
            <template v-for="one in mask.examples" :key="one.attempt">
              · <RouterLink :to="{ path: `/attempts/${one.attempt}`, query: { show: one.event } }">see</RouterLink>
            </template>
          </p>
          <p v-else class="soft">Mask {{ i + 1 }} holds: what it hides is not kept, and cannot be counted.</p>
        </template>
        <p v-if="!rules.preview.masks.length" class="soft">
          A mask is tried here on what the last attempts hold, before it is set.
        </p>
      </div>
    </section>
    <section class="panel" aria-label="Forms the rules have had">
      <h2>What was changed, and by whom</h2>
      <p v-if="!rules.versions.length" class="soft">Nobody has set any rule yet.</p>
      <ol v-else class="versions">
        <li v-for="(version, i) in rules.versions.slice(0, 12)" :key="version.number">
          <span>{{ version.number }}</span>
          <span class="soft">{{ version.at ? moment(version.at) : '' }}{{ version.by ? `, ${version.by}` : '' }}</span>
          <span>{{ version.changed.join('; ') }}</span>
          <button v-if="i > 0" type="button" class="plain sea" :disabled="busy" @click="undo(version.number)">
            back to this
          </button>
          <b v-else class="sea">holds</b>
        </li>
      </ol>
    </section>
    <div class="bar">
      <p v-if="rules.problem" class="brick" role="alert">{{ rules.problem }}</p>
      <p v-else-if="unreasoned" class="amber" role="status">Say why each exemption is let pass.</p>
      <p v-else class="one-line" role="status" :title="rules.changes.join('; ')">
        {{
          rules.changes.length
            ? `${rules.trying ? 'Being tried on the last runs' : 'Not set yet'}: ${rules.changes.join('; ')}`
            : 'These rules hold.'
        }}
      </p>
      <label class="soft" for="by">set by</label>
      <InputText id="by" v-model="rules.by" size="small" placeholder="your name" />
      <Button label="Set these rules" size="small" :disabled="!settable || busy || rules.trying" @click="set" />
      <Button
        label="Drop"
        size="small"
        severity="secondary"
        variant="outlined"
        :disabled="!rules.changes.length"
        @click="rules.discard()"
      />
      <Button
        label="Take last change back"
        size="small"
        severity="secondary"
        variant="outlined"
        :disabled="!rules.versions.length || busy"
        @click="undo()"
      />
    </div>
  </div>
</template>

<style scoped>
.rules {
  padding: 14px 18px 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
.choices {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: 14px;
  align-items: baseline;
}
.choices > span:first-child {
  font-size: 12px;
}
.all {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
}
b {
  font-weight: 600;
}
.versions li {
  display: grid;
  grid-template-columns: 30px 190px minmax(0, 1fr) auto;
  gap: 12px;
  padding: 3px 0;
}
.bar {
  position: sticky;
  bottom: 0;
  display: flex;
  gap: 12px;
  align-items: center;
  background: var(--ground);
  border-top: 1px solid var(--line);
  padding: 8px 0;
}
.bar p {
  flex: 1;
  min-width: 0;
}
.bar input {
  width: 130px;
}
</style>
