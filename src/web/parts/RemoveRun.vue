<script setup lang="ts">
import Button from 'primevue/button';
import Dialog from 'primevue/dialog';
import { ref } from 'vue';
import { useRouter } from 'vue-router';
import { sizeText } from '../../core/keeping/words.ts';
import type { RunWeight } from '../../core/records.ts';
import { useActs } from '../act.ts';
import { api } from '../api.ts';
import { plural } from '../words.ts';

/** Removes a run for good, once it is seen what goes with it. */
const { run, name } = defineProps<{ run: string; name: string }>();
const open = ref(false);
const weight = ref<RunWeight>();
const router = useRouter();
const { busy, act } = useActs();

const look = (): Promise<void> =>
  act(async () => {
    weight.value = (await api<{ goes: RunWeight }>('DELETE', `/runs/${run}?preview=true`)).goes;
    open.value = true;
  }, 'It cannot be removed');
const remove = (): Promise<void> =>
  act(async () => {
    await api('DELETE', `/runs/${run}`);
    await router.push('/');
  }, 'It was not removed');
</script>

<template>
  <button type="button" class="plain sea" :disabled="busy" @click="look">remove this run</button>
  <Dialog v-model:visible="open" modal :header="`Remove “${name}”`" :style="{ width: '30rem' }">
    <template v-if="weight">
      <p>
        {{ plural(weight.attempts, 'attempt') }} of {{ plural(weight.tests, 'test') }} with
        {{ plural(weight.events, 'event') }} and {{ plural(weight.files, 'file') }} ({{ sizeText(weight.bytes) }}) go
        for good. There is no undo; an evidence pack of an attempt can be saved before.
      </p>
      <p v-if="weight.families">
        {{ plural(weight.families, 'family', 'families') }} {{ weight.families === 1 ? 'has' : 'have' }} failures in
        this run alone. Those with a verdict stay, without their failures.
      </p>
      <p v-if="weight.drills">{{ plural(weight.drills, 'drill') }} made from its attempts stay.</p>
      <p class="choose">
        <Button label="Keep it" size="small" severity="secondary" @click="open = false" />
        <Button label="Remove" size="small" class="for-good" :disabled="busy" @click="remove" />
      </p>
    </template>
  </Dialog>
</template>

<style scoped>
p {
  margin: 0 0 10px;
}
.choose {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin: 14px 0 0;
}
.for-good {
  background: var(--brick);
  border-color: var(--brick);
}
</style>
