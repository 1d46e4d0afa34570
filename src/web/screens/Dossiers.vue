<script setup lang="ts">
import InputText from 'primevue/inputtext';
import { computed, nextTick, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { causeNames } from '../../core/causes/cause.ts';
import { awaitsVerdict } from '../../core/families/verdict.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useLoaded } from '../loaded.ts';
import Standing from '../parts/Standing.vue';
import Trouble from '../parts/Trouble.vue';
import type { Family } from '../types.ts';
import { moment, plural } from '../words.ts';

/** Every family of failures: those that await somebody first, walked by keys. */
const route = useRoute();
const router = useRouter();
const {
  shown: families,
  error,
  load,
} = useLoaded(
  async () => (await api<{ families: Family[] }>('GET', '/families')).families,
  (change) => change.type === 'family' || change.type === 'attempt',
  1000,
);

const words = ref(String(route.query.words ?? ''));
const all = ref(route.query.show === 'all');
watch([words, all], () => {
  chosen.value = 0;
  void router.replace({
    query: { ...(words.value ? { words: words.value } : {}), ...(all.value ? { show: 'all' } : {}) },
  });
});
const told = ({ sentence, verdict }: Family): string =>
  [
    sentence,
    verdict.confirmed && causeNames[verdict.confirmed],
    verdict.ownCause,
    verdict.owner,
    verdict.state,
    verdict.note,
  ]
    .filter(Boolean)
    .join(' ')
    .toLowerCase();
const found = computed(() => {
  const asked = words.value.toLowerCase().split(/\s+/).filter(Boolean);
  return (families.value ?? []).filter((one) => asked.every((word) => told(one).includes(word)));
});
const awaiting = computed(() => found.value.filter(({ verdict }) => awaitsVerdict(verdict, Date.now())));
const rows = computed(() => (all.value ? found.value : awaiting.value));

const chosen = ref(0);
async function choose(i: number): Promise<void> {
  chosen.value = Math.max(0, Math.min(rows.value.length - 1, i));
  await nextTick();
  document.querySelector<HTMLElement>('.row.chosen')?.focus();
}
useKeys(
  [
    { keys: '↑ ↓', does: 'dossier' },
    { keys: 'Enter', does: 'open' },
    { keys: 'A', does: 'all, or those that await a verdict' },
    { keys: 'W', does: 'words' },
  ],
  (event) => {
    switch (event.key) {
      case 'ArrowDown':
        void choose(document.activeElement?.classList.contains('row') ? chosen.value + 1 : chosen.value);
        return true;
      case 'ArrowUp':
        void choose(chosen.value - 1);
        return true;
    }
    switch (event.key.toLowerCase()) {
      case 'a':
        all.value = !all.value;
        return true;
      case 'w':
        document.getElementById('words')?.focus();
        return true;
    }
    return false;
  },
);
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="families" class="dossiers">
    <div class="screen-head">
      <h1>Dossiers</h1>
      <p class="soft" role="status">
        {{
          awaiting.length
            ? `${plural(awaiting.length, 'family', 'families')} ${awaiting.length === 1 ? 'awaits' : 'await'} a verdict`
            : 'None awaits a verdict'
        }}, of {{ found.length }}
      </p>
      <label class="all"><input v-model="all" type="checkbox" /> also those that have one</label>
      <InputText id="words" v-model="words" size="small" placeholder="words, a cause, an owner" aria-label="Words" />
    </div>
    <p v-if="!families.length" class="soft">
      No failure has been recorded yet. Each family of failures gets a dossier of its own: its suspects, its verdict,
      its trials.
    </p>
    <p v-else-if="!rows.length" class="soft">
      {{
        words
          ? 'No dossier has these words.'
          : 'Every family has its verdict. What comes back after it was called mended will stand here again.'
      }}
    </p>
    <RouterLink
      v-for="(family, i) in rows"
      :key="family.id"
      :to="`/dossiers/${family.id}`"
      :class="['row', { chosen: i === chosen, settled: !awaitsVerdict(family.verdict, Date.now()) }]"
      @focus="chosen = i"
    >
      <strong class="one-line">{{ family.sentence }}</strong>
      <span class="soft">first seen {{ moment(family.firstAt) }}</span>
      <Standing :verdict="family.verdict" />
    </RouterLink>
  </div>
</template>

<style scoped>
.dossiers {
  padding: 14px 18px;
}
.screen-head {
  margin-bottom: 10px;
}
.head p {
  flex: 1;
}
.all {
  font-size: 13px;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 170px 300px;
  gap: 14px;
  background: var(--paper);
  border: 1px solid var(--line);
  border-left: 5px solid var(--brick);
  padding: 9px 14px;
  margin-bottom: 6px;
  color: var(--ink);
}
.row.settled {
  border-left-color: var(--sea);
}
.row:hover {
  text-decoration: none;
  border-color: var(--timber);
}
strong {
  font-weight: 600;
}
</style>
