<script setup lang="ts">
import { diffLines } from 'diff';
import { computed } from 'vue';

const { before, after } = defineProps<{ before: string; after: string }>();

/** Equal lines farther than this from a change are left out. */
const around = 2;

interface Row {
  sign: '+' | '−' | ' ';
  text: string;
}
/** Lines that differ, with a few that do not around them; gaps between are undefined. */
const rows = computed((): (Row | undefined)[] => {
  const all = diffLines(before, after).flatMap(({ value, added, removed }): Row[] =>
    value
      .replace(/\n$/, '')
      .split('\n')
      .map((text) => ({ sign: added ? '+' : removed ? '−' : ' ', text })),
  );
  const near = all.map((_, i) => all.slice(Math.max(0, i - around), i + around + 1).some(({ sign }) => sign !== ' '));
  return all.flatMap((row, i): (Row | undefined)[] => (near[i] ? [row] : near[i - 1] ? [undefined] : []));
});
const words = { '+': 'added', '−': 'taken away', ' ': 'the same' } as const;
</script>

<template>
  <p v-if="!rows.length" class="soft">The two are the same.</p>
  <ol v-else class="mono" aria-label="Lines that differ">
    <li v-for="(row, i) in rows" :key="i" :class="row?.sign === '+' ? 'more' : row?.sign === '−' ? 'less' : 'same'">
      <template v-if="row">
        <span class="sign" aria-hidden="true">{{ row.sign }}</span>
        <span class="spoken">{{ words[row.sign] }}: </span>{{ row.text }}
      </template>
      <span v-else class="soft" aria-label="lines left out">⋮</span>
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 12px;
  line-height: 18px;
  overflow: auto;
  border: 1px solid var(--line);
  background: var(--paper);
}
li {
  padding: 0 8px 0 4px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.sign {
  display: inline-block;
  width: 16px;
  text-align: center;
}
.more {
  box-shadow: inset 3px 0 var(--sea);
  font-weight: 600;
}
.less {
  box-shadow: inset 3px 0 var(--brick);
  color: var(--brick-text);
}
</style>
