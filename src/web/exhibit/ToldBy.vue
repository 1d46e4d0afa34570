<script setup lang="ts">
import { computed, ref } from 'vue';
import type { MayBe } from '../../core/records.ts';
import { useActs } from '../act.ts';
import { api } from '../api.ts';
import { useBench } from '../stores/bench.ts';

/** Which report told later what became of a recorded attempt, and why it is thought to be that one; corrected here. */
const bench = useBench();
const { busy, act } = useActs();
const attempt = computed(() => bench.attempt!);
const told = computed(() => attempt.value.labels.told);
/** What is a part of a recording, or was shared out, is corrected nowhere: it goes by its time. */
const given = computed(() => attempt.value.source === 'streamed' && told.value?.recording);
const correctable = computed(
  () => attempt.value.source === 'recorded' && !(told.value && attempt.value.outcome === 'unreported'),
);
const mayBe = ref<MayBe[] | null>(null);
const chosen = ref('');
const time = (at: number): string => new Date(at).toLocaleTimeString(undefined, { hour12: false });

const ask = (): Promise<void> =>
  act(async () => {
    mayBe.value = (await api<{ mayBe: MayBe[] }>('GET', `/attempts/${attempt.value.id}/told`)).mayBe;
    chosen.value = mayBe.value[0]?.id ?? '';
  }, 'What else it might be could not be asked');
const say = (other: string | null): Promise<void> =>
  act(async () => {
    const { id } = attempt.value;
    await api('POST', `/attempts/${id}/told`, { attemptId: other });
    mayBe.value = null;
    await bench.load(id);
  }, 'It was not changed');
</script>

<template>
  <section aria-label="Who told the outcome" class="told">
    <h2>Who told the outcome</h2>
    <p v-if="told">
      <b>{{ told.by }}</b>{{ told.why === 'said by hand' ? ', said by hand' : `: ${told.why}` }}. It was recorded as
      {{ told.was.title }}.
    </p>
    <p v-else>
      Nobody yet. Drop the runner’s report onto Arrivals: it tells by time and order which test this was. Or say it
      here.
    </p>
    <p v-if="given" class="acts">
      <RouterLink :to="`/attempts/${told!.recording}`">The recording</RouterLink>
      <button class="plain sea" :disabled="busy" @click="say(null)">It is not of this test</button>
    </p>
    <p v-if="correctable" class="acts">
      <button v-if="!mayBe" class="plain sea" :disabled="busy" @click="ask">
        {{ told ? 'It is another …' : 'Say which it was …' }}
      </button>
      <button v-if="told" class="plain sea" :disabled="busy" @click="say(null)">It is none of the report</button>
    </p>
    <p v-if="mayBe && !mayBe.length" class="soft" role="status">No report of that day tells of any other attempt.</p>
    <form v-else-if="mayBe" @submit.prevent="say(chosen)">
      <label
        >It is
        <select v-model="chosen">
          <option v-for="one in mayBe" :key="one.id" :value="one.id">
            {{ time(one.startedAt) }} {{ one.outcome }} · {{ one.title
            }}{{ one.number > 1 ? ` (attempt ${one.number})` : '' }} ·
            {{ one.run }}
          </option>
        </select>
      </label>
      <button :disabled="busy || !chosen">Exchange what was told</button>
      <button type="button" class="plain" @click="mayBe = null">Leave it</button>
    </form>
  </section>
</template>

<style scoped>
.told p {
  padding: 2px 0 4px;
}
.acts {
  display: flex;
  gap: 16px;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
label {
  flex: 1 1 100%;
  min-width: 0;
}
select {
  width: 100%;
}
</style>
