<script setup lang="ts">
import { computed, nextTick, ref } from 'vue';
import { useRouter } from 'vue-router';
import { riskNames } from '../../core/risks/words.ts';
import type { TestRisk } from '../types.ts';
import { percent, plural } from '../words.ts';

/** Risks of one test, the gravest first: what was seen, where, and what to write instead. */
const { risks } = defineProps<{ risks: readonly TestRisk[] }>();
/** Those that hardly tell anything are folded. */
const least = 0.04;
const all = ref(false);
const grave = computed(() => risks.filter(({ chance, kind }) => chance >= least || kind === 'secret-shown'));
const shown = computed(() => (all.value || !grave.value.length ? risks : grave.value));
const place = (one: TestRisk): string => `/attempts/${one.attempt}?at=${one.at.toFixed(1)}`;
const router = useRouter();
const list = ref<HTMLElement>();
const chosen = ref(0);

async function step(by: number): Promise<void> {
  const links = [...(list.value?.querySelectorAll<HTMLElement>('a') ?? [])];
  const here = links.indexOf(document.activeElement as HTMLElement);
  chosen.value = Math.max(0, Math.min(shown.value.length - 1, here < 0 ? 0 : here + by));
  await nextTick();
  links[chosen.value]?.focus();
}
function open(): void {
  const one = shown.value[chosen.value];
  if (one) void router.push(place(one));
}
defineExpose({ step, open });
</script>

<template>
  <ol ref="list" class="risks">
    <li v-for="(one, i) in shown" :key="`${one.kind} ${one.key}`">
      <p class="kind">
        <b>{{ riskNames[one.kind] }}</b>
        <span class="soft"
          >{{ one.chance ? `${percent(one.chance)} · ` : '' }}seen in {{ one.seen }} of {{ one.of }}</span
        >
      </p>
      <p>{{ one.summary }}.</p>
      <p class="change">
        {{ one.change }}. <code v-if="one.source" class="soft">{{ one.source }}</code>
      </p>
      <RouterLink :to="place(one)" @focus="chosen = i">Look at the moment</RouterLink>
    </li>
  </ol>
  <button v-if="grave.length && grave.length < risks.length" class="plain link" @click="all = !all">
    {{ all ? 'Fold the slight ones' : plural(risks.length - grave.length, 'slight one') }}
  </button>
</template>

<style scoped>
.risks {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 10px;
}
.risks li {
  border-top: 1px solid var(--line);
  padding-top: 8px;
  display: grid;
  gap: 3px;
}
.kind {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}
.kind b {
  font-weight: 600;
  color: var(--amber-text);
}
.change {
  border-left: 3px solid var(--sea);
  padding-left: 8px;
}
a {
  justify-self: start;
  font-size: 12px;
}
.link {
  text-decoration: underline;
  font-size: 12px;
}
</style>
