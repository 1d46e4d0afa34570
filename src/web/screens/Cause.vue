<script setup lang="ts">
import { marked } from 'marked';
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import { causes } from '../../core/causes/register.ts';
import { clueKinds } from '../../core/clues/register.ts';
import { causeCodes, causeNames, isCauseCode, type Weights } from '../../core/causes/cause.ts';
import Strip from '../parts/Strip.vue';
import Nowhere from './Nowhere.vue';

/** The page of one cause, the same that stands in the project's docs. */
const route = useRoute();
const code = computed(() => String(route.params.code));
const pages = import.meta.glob<string>('../../../docs/causes/*.md', { query: '?raw', import: 'default' });
const text = ref('');
const about = new Map<string, string>(clueKinds.map((one) => [one.code, one.about]));
/** Clues that speak, in words, the weightiest first. */
const speaking = computed(() => {
  const cause = causes.find((one) => one.code === code.value);
  const list = (weights: Weights = {}) =>
    Object.entries(weights)
      .sort(([, a], [, b]) => b - a)
      .map(([clue, weight]) => ({ clue, weight, words: about.get(clue) ?? clue }));
  return cause
    ? [
        { side: 'Speaks for it', list: list({ ...cause.doubts, ...cause.for }) },
        { side: 'Speaks against it', list: list(cause.against) },
      ]
    : [];
});
watch(
  code,
  async (one) => {
    const page = pages[`../../../docs/causes/${one}.md`];
    // Its heading stands in the strip, and the clues it names by their codes stand below in words.
    const written = page ? (await page()).replace(/^# .*\n/, '').replace(/^\*\*Speaks [^]*?\n\n/gm, '') : '';
    text.value = marked.parse(written, { async: false });
  },
  { immediate: true },
);
</script>

<template>
  <div v-if="isCauseCode(code)">
    <Strip :title="causeNames[code]">
      <template #crumbs>Causes / {{ code }}</template>
    </Strip>
    <div class="halves">
      <div>
        <!-- eslint-disable-next-line vue/no-v-html -- our own docs, built in -->
        <article class="page" v-html="text" />
        <section v-for="{ side, list } in speaking" :key="side" :aria-label="side" class="speaking">
          <h2>{{ side }}</h2>
          <ul>
            <li v-for="{ clue, weight, words } in list" :key="clue">
              <i :style="{ width: `${Math.round(weight * 11)}px` }" />{{ words }}
            </li>
          </ul>
        </section>
      </div>
      <nav aria-label="All causes">
        <h2>All causes</h2>
        <ul>
          <li v-for="one in causeCodes" :key="one">
            <RouterLink :to="`/causes/${one}`" :aria-current="one === code ? 'page' : undefined">{{
              causeNames[one]
            }}</RouterLink>
          </li>
        </ul>
      </nav>
    </div>
  </div>
  <Nowhere v-else />
</template>

<style scoped>
.halves {
  display: grid;
  grid-template-columns: minmax(0, 74ch) minmax(220px, 1fr);
  gap: 40px;
  padding: 14px 18px 32px;
}
.page :deep(p),
.page :deep(ul) {
  margin-bottom: 12px;
  line-height: 1.55;
}
.page :deep(li) {
  margin-left: 20px;
}
.page :deep(code) {
  font-size: 12px;
  overflow-wrap: anywhere;
}
.page :deep(strong) {
  font-weight: 600;
}
.speaking ul {
  list-style: none;
  margin-bottom: 14px;
}
.speaking li {
  display: grid;
  grid-template-columns: 66px 1fr;
  align-items: center;
  gap: 10px;
  padding: 2px 0;
}
.speaking i {
  height: 9px;
  justify-self: end;
  background: var(--brick);
}
.speaking + .speaking i {
  background: var(--sea);
}
.speaking h2 {
  margin-bottom: 4px;
}
nav ul {
  list-style: none;
}
nav li {
  padding: 2px 0;
}
nav [aria-current] {
  color: var(--ink);
  font-weight: 600;
}
</style>
