<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue';
import type { Side } from '../stores/bench-lists.ts';
import { useBench } from '../stores/bench.ts';
import { plural, seconds } from '../words.ts';
import Circumstances from './Circumstances.vue';
import FilmExport from './FilmExport.vue';
import Moment from './Moment.vue';
import ScreenAtLevel from './ScreenAtLevel.vue';
import Sources from './Sources.vue';
import ToldBy from './ToldBy.vue';
import ThenAndNow from './ThenAndNow.vue';

// Opened by choice only: what the bench shows first does not wait for them.
const CompareScreens = defineAsyncComponent(() => import('./CompareScreens.vue'));
const ConsoleList = defineAsyncComponent(() => import('./ConsoleList.vue'));
const NetworkList = defineAsyncComponent(() => import('./NetworkList.vue'));
const Why = defineAsyncComponent(() => import('./Why.vue'));
const PageStructure = defineAsyncComponent(() => import('./PageStructure.vue'));

/** The right side of the bench: everything true at the level, and lists and views that follow it. */
const bench = useBench();
const failure = computed(() => bench.attempt?.failure);
/** Over, and a report told later what was recorded of it, or nobody did. */
const needsTelling = computed(() => {
  const one = bench.attempt;
  if (!one || one.seriesId || one.state === 'recording') return false;
  return one.labels.told !== undefined || (one.source === 'recorded' && one.outcome === 'unreported');
});
const notes = computed(() => bench.events.filter((event) => event.lane === 'note' && event.kind === 'recorder'));
const tabs = computed((): { side: Side; name: string; count?: number }[] => [
  { side: 'moment', name: 'Moment' },
  { side: 'why', name: 'Why' },
  {
    side: 'console',
    name: 'Console',
    count: (bench.stops.console?.length ?? 0) + (bench.stops.exception?.length ?? 0),
  },
  { side: 'network', name: 'Network', count: bench.stops.network?.length ?? 0 },
  { side: 'structure', name: 'Structure' },
  { side: 'compare', name: 'Pictures' },
]);
function turn(event: KeyboardEvent): void {
  const by = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
  if (!by) return;
  event.preventDefault();
  event.stopPropagation();
  const list = tabs.value;
  const next = list[(list.findIndex(({ side }) => side === bench.side) + by + list.length) % list.length]!;
  bench.side = next.side;
  document.getElementById(`side-${next.side}`)?.focus();
}
</script>

<template>
  <aside class="exhibit" aria-label="Exhibit: what was true at the level">
    <div class="tabs" role="tablist" aria-label="What the exhibit shows" @keydown="turn">
      <button
        v-for="tab in tabs"
        :id="`side-${tab.side}`"
        :key="tab.side"
        role="tab"
        :aria-selected="bench.side === tab.side"
        :tabindex="bench.side === tab.side ? 0 : -1"
        aria-controls="exhibit-side"
        @click="bench.side = tab.side"
      >
        {{ tab.name }}<small v-if="tab.count !== undefined">&nbsp;{{ tab.count }}</small>
      </button>
    </div>
    <div id="exhibit-side" class="side" role="tabpanel" :aria-labelledby="`side-${bench.side}`">
      <template v-if="bench.side === 'moment'">
        <ScreenAtLevel />
        <ThenAndNow />
        <Sources v-if="bench.attempt && bench.attempt.source !== 'recorded' && !bench.attempt.labels.told?.recording" />
        <ToldBy v-if="needsTelling" />
        <section v-if="bench.loud.length || bench.usualClues.length" aria-label="Clues">
          <h2>Clues</h2>
          <ol>
            <li v-for="(clue, i) in bench.loud" :key="i">
              <button
                class="clue"
                :class="{ on: bench.clue === i }"
                :aria-pressed="bench.clue === i"
                @click="bench.choose(bench.clue === i ? null : i)"
              >
                <i>{{ i + 1 }}</i><span
                  ><b>{{ clue.summary }}</b
                  ><small class="soft"
                    >{{ seconds(clue.at) }}, {{ plural(clue.evidence.length, 'piece') }} of evidence</small
                  ></span
                >
              </button>
            </li>
          </ol>
          <details v-if="bench.usualClues.length" class="usual">
            <summary>Also seen, and usual: {{ bench.usualClues.length }}</summary>
            <ul>
              <li v-for="(clue, i) in bench.usualClues" :key="i">
                <button class="plain" @click="clue.evidence[0] && bench.point(clue.evidence[0], clue.at)">
                  {{ clue.summary }}
                </button>
              </li>
            </ul>
          </details>
        </section>
        <Moment />
        <section v-if="failure" aria-label="As it was told">
          <h2>As it was told</h2>
          <pre tabindex="0">{{ failure.message || 'no message' }}</pre>
          <details v-if="failure.stack">
            <summary>Stack, {{ plural(failure.libraryFrames, 'library frame') }} in it</summary>
            <pre>{{ failure.stack }}</pre>
          </details>
        </section>
        <p v-for="note in notes" :key="note.id" class="amber">{{ note.lane === 'note' ? note.data.label : '' }}</p>
        <Circumstances />
        <FilmExport />
      </template>
      <Why v-else-if="bench.side === 'why'" />
      <ConsoleList v-else-if="bench.side === 'console'" />
      <NetworkList v-else-if="bench.side === 'network'" />
      <PageStructure v-else-if="bench.side === 'structure'" />
      <CompareScreens v-else />
    </div>
  </aside>
</template>

<style scoped>
.exhibit {
  background: var(--paper);
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
  min-width: 0;
  min-height: 0;
}
.tabs {
  display: flex;
  border-bottom: 1px solid var(--line);
  padding: 0 6px;
  height: 28px;
}
.tabs button {
  border: 0;
  border-bottom: 3px solid transparent;
  background: none;
  padding: 0 8px;
  font-size: 12px;
  font-weight: 600;
  color: var(--soft);
  cursor: pointer;
}
.tabs button[aria-selected='true'] {
  color: var(--ink);
  border-bottom-color: var(--ink);
}
.tabs small {
  font-weight: 400;
}
.side {
  contain: layout paint style;
  overflow-y: auto;
  padding: 8px 14px 16px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  align-content: start;
}
ol {
  display: grid;
  gap: 5px;
  margin-top: 5px;
}
.clue {
  display: flex;
  width: 100%;
  align-items: stretch;
  border: 1px solid var(--line);
  background: var(--ground);
  padding: 0;
  text-align: left;
  cursor: pointer;
}
.clue.on {
  border-color: var(--ink);
}
.clue i {
  flex: 0 0 24px;
  background: var(--brick);
  color: var(--paper);
  font: 600 12px/1 var(--sans);
  display: grid;
  place-items: center;
}
.clue.on i {
  background: var(--ink);
}
.clue span {
  padding: 4px 10px;
  min-width: 0;
}
.clue b {
  font-weight: 600;
  font-size: 12.5px;
  display: block;
  line-height: 1.3;
}
pre {
  margin: 5px 0 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 11px;
  max-height: 180px;
  overflow: auto;
}
summary {
  cursor: pointer;
  color: var(--soft);
  font-size: 12px;
}
</style>
