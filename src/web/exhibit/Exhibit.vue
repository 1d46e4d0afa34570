<script setup lang="ts">
import { computed } from 'vue';
import { pathOf } from '../../core/evidence/labels.ts';
import { endOf } from '../../core/evidence/event.ts';
import { useBench } from '../stores/bench.ts';
import { duration, plural, seconds } from '../words.ts';
import ScreenAtLevel from './ScreenAtLevel.vue';
import Sources from './Sources.vue';
import ThenAndNow from './ThenAndNow.vue';

/** The right side of the bench: everything true at the level. */
const bench = useBench();
const failure = computed(() => bench.attempt?.failure);
const notes = computed(() => bench.events.filter((event) => event.lane === 'note' && event.kind === 'recorder'));
</script>

<template>
  <aside class="exhibit" aria-label="Exhibit: what was true at the level">
    <ScreenAtLevel />
    <ThenAndNow />
    <Sources v-if="bench.attempt && bench.attempt.source !== 'recorded'" />
    <section v-if="bench.loud.length" aria-label="Clues">
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
    </section>
    <section aria-label="At this moment">
      <h2>At {{ seconds(bench.level) }}</h2>
      <dl>
        <dt>page</dt>
        <dd class="one-line" :title="bench.now.address">
          {{ bench.now.address ? pathOf(bench.now.address) : 'none opened yet' }}
        </dd>
        <dt>in flight</dt>
        <dd>
          <p
            v-for="request in bench.now.inFlight.slice(0, 4)"
            :key="request.id"
            class="one-line"
            :title="request.data.url"
          >
            <span class="mono"
              >{{ request.data.method }} {{ request.data.own ? pathOf(request.data.url) : request.data.url }}</span
            >
            <span class="soft"
              >for {{ duration(bench.level - request.at) }} of {{ duration(endOf(request) - request.at) }}</span
            >
          </p>
          <span v-if="bench.now.inFlight.length > 4" class="soft">and {{ bench.now.inFlight.length - 4 }} more</span>
          <span v-if="!bench.now.inFlight.length" class="soft">nothing</span>
        </dd>
        <dt>console</dt>
        <dd>
          <p
            v-for="line in bench.now.console.slice(0, 4)"
            :key="line.id"
            class="mono one-line"
            :class="{ brick: line.data.level === 'error', amber: line.data.level === 'warning' }"
            :title="line.data.text"
          >
            {{ line.data.text }}
          </p>
          <span v-if="!bench.now.console.length" class="soft">quiet</span>
        </dd>
        <template v-if="bench.now.held">
          <dt>field holds</dt>
          <dd class="one-line">
            “{{ bench.now.held.data.text }}” <span class="soft">in {{ bench.now.held.data.label }}</span>
          </dd>
        </template>
      </dl>
    </section>
    <section v-if="failure" aria-label="As it was told">
      <h2>As it was told</h2>
      <pre>{{ failure.message || 'no message' }}</pre>
      <details v-if="failure.stack">
        <summary>Stack, {{ plural(failure.libraryFrames, 'library frame') }} in it</summary>
        <pre>{{ failure.stack }}</pre>
      </details>
    </section>
    <p v-for="note in notes" :key="note.id" class="amber">{{ note.lane === 'note' ? note.data.label : '' }}</p>
  </aside>
</template>

<style scoped>
.exhibit > * {
  min-width: 0;
}
.exhibit {
  background: var(--paper);
  overflow-y: auto;
  padding: 8px 14px 16px;
  display: grid;
  gap: 12px;
  align-content: start;
  min-width: 0;
}
.exhibit > * {
  min-width: 0;
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
dl {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr);
  gap: 3px 8px;
  margin-top: 4px;
  font-size: 12.5px;
}
dt {
  color: var(--soft);
}
.past {
  margin-left: 6px;
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
