<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, ref, shallowRef, watch } from 'vue';
import type { PageEvent } from '../../core/evidence/event.ts';
import { windowSize } from '../../core/scaffold/at-screen.ts';
import { pathOf } from '../../core/evidence/labels.ts';
import { useBench } from '../stores/bench.ts';
import { plural, seconds } from '../words.ts';
import { elementWords, inertText, matchesIn, parseInert, strategies } from './inert.ts';

/** What the page was made of at the level, shown where nothing of it can run or fetch, and a locator tried against it. */
const bench = useBench();
const all = computed(() => bench.poles.page.filter((event) => event.kind === 'structure'));
const soonAfterMs = 150;
/** Of every document the latest by then: the window looked at first, then its frames. */
const documents = computed(() => {
  const latest = new Map<string, PageEvent>();
  // What a failing command found is written out a moment after it failed.
  const until = bench.shown + soonAfterMs;
  for (const event of all.value)
    if (event.at <= until || !latest.has(event.data.context ?? '')) latest.set(event.data.context ?? '', event);
  const looked = bench.looking.looked?.context;
  return [...latest.values()].sort(
    (a, b) => Number(b.data.context === looked) - Number(a.data.context === looked) || b.at - a.at,
  );
});
const which = ref(0);
const shown = computed(() => documents.value[which.value] ?? documents.value[0]);
const parsed = shallowRef<Document>();
const trouble = ref('');
watch(
  () => shown.value?.data.blob,
  async (blob) => {
    parsed.value = undefined;
    trouble.value = '';
    if (!blob) return;
    try {
      const answer = await fetch(`/api/blobs/${blob}`);
      if (!answer.ok) throw new Error('it is not there any more');
      parsed.value = parseInert(await answer.text());
    } catch (error) {
      trouble.value = `The structure cannot be shown: ${(error as Error).message}`;
    }
  },
  { immediate: true },
);

const using = ref<string>('css selector');
const value = ref('');
const asked = computed(() => {
  const step = bench.now.step;
  return (step && step.data.locator) ?? bench.attempt?.failure?.locator;
});
watch(
  asked,
  (locator) => {
    if (!locator) return;
    using.value = locator.using;
    value.value = locator.value;
  },
  { immediate: true },
);
const tried = computed((): { matches: Element[]; problem?: string } => {
  if (!parsed.value || !value.value.trim()) return { matches: [] };
  const own = asked.value;
  const within = own && own.using === using.value && own.value === value.value ? own.within : undefined;
  try {
    return {
      matches: matchesIn(parsed.value, { using: using.value, value: value.value, ...(within ? { within } : {}) }),
    };
  } catch (error) {
    return { matches: [], problem: (error as Error).message };
  }
});
const text = computed(() => (parsed.value ? inertText(parsed.value, tried.value.matches) : ''));
const most = 12;
/** As wide as the window was, drawn as small as the exhibit is, so that it is laid out as it was. */
const place = ref<HTMLElement>();
const { width } = useElementSize(place);
const size = computed(() => {
  const screen = bench.now.screen?.event;
  const { width: wide, height } = bench.attempt?.environment ?? {};
  return screen ? windowSize(screen) : { width: wide ?? 1280, height: height ?? 800 };
});
const scale = computed(() => Math.min(1, (width.value || 400) / size.value.width));
</script>

<template>
  <section aria-label="Structure of the page" class="structure">
    <p v-if="!shown" class="soft">
      No structure of the page was kept. Detail “standard” or “full” keeps it when the page comes to rest, when a
      command fails and at the end; other runners’ evidence has none.
    </p>
    <template v-else>
      <p class="soft">
        {{ pathOf(shown.data.address ?? '') }} as it was at {{ seconds(shown.at) }},
        {{ Math.abs(Math.round(bench.shown - shown.at)) }} ms {{ shown.at <= bench.shown ? 'before' : 'after' }} the
        level. Nothing in it runs or is fetched.
      </p>
      <label v-if="documents.length > 1"
        >Document
        <select v-model="which">
          <option v-for="(one, i) in documents" :key="one.id" :value="i">{{ pathOf(one.data.address ?? '') }}</option>
        </select></label
      >
      <div class="try">
        <select v-model="using" aria-label="How the locator is meant">
          <option v-for="one in strategies" :key="one">{{ one }}</option>
        </select>
        <input v-model="value" class="mono" aria-label="Locator to try" spellcheck="false" />
      </div>
      <p role="status" :class="tried.problem ? 'brick' : ''">
        {{
          tried.problem ??
          (parsed
            ? `${plural(tried.matches.length, 'element')} ${tried.matches.length === 1 ? 'matches' : 'match'}`
            : '')
        }}
      </p>
      <ol v-if="tried.matches.length" class="mono matches">
        <li v-for="(one, i) in tried.matches.slice(0, most)" :key="i" class="one-line" :title="elementWords(one)">
          {{ elementWords(one) }}
        </li>
        <li v-if="tried.matches.length > most" class="soft">and {{ tried.matches.length - most }} more</li>
      </ol>
      <p v-if="trouble" class="brick">{{ trouble }}</p>
      <div v-if="text" ref="place" class="window" :style="{ height: `${size.height * scale}px` }">
        <iframe
          title="The recorded page, inert"
          sandbox=""
          referrerpolicy="no-referrer"
          :srcdoc="text"
          :style="{ width: `${size.width}px`, height: `${size.height}px`, transform: `scale(${scale})` }"
        />
      </div>
      <details v-if="parsed">
        <summary>As text</summary>
        <pre>{{ parsed.documentElement.outerHTML.slice(0, 100_000) }}</pre>
      </details>
    </template>
  </section>
</template>

<style scoped>
.structure {
  display: grid;
  gap: 6px;
  font-size: 12.5px;
}
.try {
  display: flex;
  gap: 6px;
}
.try input {
  flex: 1;
  min-width: 0;
}
select,
input {
  font: inherit;
  color: inherit;
  background: var(--ground);
  border: 1px solid var(--line);
  padding: 2px 5px;
}
.matches {
  display: grid;
  gap: 2px;
}
.window {
  border: 1px solid var(--line);
  overflow: hidden;
}
iframe {
  border: 0;
  background: #fff;
  transform-origin: 0 0;
}
pre {
  max-height: 300px;
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 11px;
}
</style>
