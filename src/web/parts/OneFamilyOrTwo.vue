<script lang="ts">
import type { Attempt, Family } from '../types.ts';

/** A family with what was joined to it and split off it. */
export interface Moved extends Family {
  attempts: Attempt[];
  /** Joins and splits by hand it took part in. */
  moves: { id: number; at: number; kind: 'join' | 'split'; familyId: string; intoId: string }[];
}
</script>

<script setup lang="ts">
import Dialog from 'primevue/dialog';
import { useToast } from 'primevue/usetoast';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { api } from '../api.ts';
import { useTell } from '../tell.ts';
import { moment } from '../words.ts';

/** Where a person makes one family of two, or two of one, and takes it back. */
const props = defineProps<{ family: Moved }>();
const emit = defineEmits<{ changed: [] }>();
const router = useRouter();
const toast = useToast();
const tell = useTell();
const others = ref<Family[]>([]);
const joining = ref(false);
async function askJoin(): Promise<void> {
  others.value = (await api<{ families: Family[] }>('GET', '/families')).families.filter(
    (one) => one.id !== props.family.id,
  );
  joining.value = true;
}
async function join(into: string): Promise<void> {
  joining.value = false;
  try {
    await api('POST', `/families/${props.family.id}/join`, { into });
    toast.add({
      severity: 'success',
      summary: 'Joined; failures to come follow',
      detail: 'Its dossier takes it back',
      life: 4000,
    });
    await router.push(`/dossiers/${into}`);
  } catch (problem) {
    tell('Nothing was joined', problem);
  }
}
async function split(attemptId: string): Promise<void> {
  try {
    const { move } = await api<{ move: { intoId: string } }>('POST', `/families/${props.family.id}/split`, {
      attemptId,
      by: 'test',
    });
    toast.add({
      severity: 'success',
      summary: 'Split off; failures to come follow',
      detail: 'Its dossier takes it back',
      life: 4000,
    });
    await router.push(`/dossiers/${move.intoId}`);
  } catch (problem) {
    tell('Nothing was split off', problem);
  }
}
async function undoMove(move: number): Promise<void> {
  try {
    const { undone } = await api<{ undone: { familyId: string } }>('POST', `/moves/${move}/undo`);
    if (undone.familyId === props.family.id) emit('changed');
    else await router.push(`/dossiers/${undone.familyId}`);
  } catch (problem) {
    tell('Nothing was taken back', problem);
  }
}
/** Tests of this family, each with an attempt that stands for it. */
const tests = computed(() => [...new Map(props.family.attempts.map((one) => [one.test.id, one])).values()]);
</script>

<template>
  <section class="panel" aria-label="One family or two">
    <h2>One family or two</h2>
    <ul v-if="tests.length > 1" class="tests">
      <li v-for="one in tests.slice(0, 8)" :key="one.test.id">
        <RouterLink :to="`/attempts/${one.id}`" class="one-line">{{ one.test.title }}</RouterLink>
        <button class="plain sea" :aria-label="`Split off the failures of ${one.test.title}`" @click="split(one.id)">
          Split off
        </button>
      </li>
    </ul>
    <p v-else class="soft">All its failures are of one test.</p>
    <p v-for="move in family.moves" :key="move.id" class="move soft">
      {{ move.kind === 'join' ? 'Joined by hand' : 'Split by hand' }}, {{ moment(move.at) }}
      <button class="plain sea" @click="undoMove(move.id)">Take back</button>
    </p>
    <div class="acts">
      <button class="plain sea" @click="askJoin">Join to another family</button>
    </div>
  </section>
  <Dialog v-model:visible="joining" modal header="Join to another family" :style="{ width: '36rem' }">
    <p class="soft">Failures of this family, these and those to come, will be of the one chosen. Its verdict holds.</p>
    <ul class="others">
      <li v-for="one in others" :key="one.id">
        <button class="plain" @click="join(one.id)">{{ one.sentence }}</button>
      </li>
      <li v-if="!others.length" class="soft">There is no other family yet.</li>
    </ul>
  </Dialog>
</template>

<style scoped>
.tests li,
.move {
  display: flex;
  gap: 10px;
  justify-content: space-between;
  padding: 2px 0;
}
.others li {
  padding: 5px 0;
  border-bottom: 1px solid var(--line);
}
.acts {
  display: flex;
  gap: 10px;
}
</style>
