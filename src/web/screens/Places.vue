<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue';
import { api } from '../api.ts';
import Trouble from '../parts/Trouble.vue';
import type { PlaceView } from '../../core/records.ts';
import { moment, plural } from '../words.ts';

/** Where sessions and trials can be had, how each place stands, and what cannot be had there. */
interface Health {
  version: string;
  places: PlaceView[];
}
const everyMs = 5000;
const health = ref<Health>();
const error = ref<unknown>();
let timer: ReturnType<typeof setInterval> | undefined;

async function load(): Promise<void> {
  try {
    health.value = await api<Health>('GET', '/health');
    error.value = undefined;
  } catch (problem) {
    error.value = problem;
  }
}
onMounted(() => {
  void load();
  timer = setInterval(() => void load(), everyMs);
});
onBeforeUnmount(() => clearInterval(timer));

const kinds = computed(() => [
  { name: 'On this machine', places: health.value?.places.filter(({ remote }) => !remote) ?? [] },
  { name: 'Elsewhere', places: health.value?.places.filter(({ remote }) => remote) ?? [] },
]);
const base = `${location.origin}/wd`;
</script>

<template>
  <Trouble v-if="error && !health" :error="error" @again="load" />
  <div v-else-if="health" class="places">
    <h1>Places</h1>
    <p class="soft">
      Tests that use <code>{{ base }}</code> run in the engine that their <code>browserName</code> names, or in the
      place that <code>iskel:attempt</code> names as <code>place</code>.
    </p>
    <section v-for="kind in kinds" :key="kind.name" :aria-label="kind.name">
      <h2>{{ kind.name }}</h2>
      <p v-if="!kind.places.length && kind.name === 'Elsewhere'" class="soft">
        Remote WebDriver endpoints are named in <code>iskel.settings.json</code> in the data folder:
        <code
          >{ "places": [{ "name": "yard-2", "address": "http://yard-2:4444", "sessions": 2, "socket": true }] }</code
        >
      </p>
      <p v-else-if="!kind.places.length" class="soft">
        No browser was found. Run <code>apt-get install chromium chromium-driver</code> and start Iskel again.
      </p>
      <article v-for="place in kind.places" :key="place.name" :class="{ down: !place.ok }">
        <h3>
          <i aria-hidden="true" />{{ place.name }}
          <small class="soft"
            >{{ place.remote ? `${place.engine} ` : ''
            }}{{ place.version || (place.ok ? '' : 'version not known') }}</small
          >
        </h3>
        <p :class="place.ok ? 'soft' : 'brick'" role="status">
          {{ place.ok ? 'Ready' : 'Down' }}: {{ place.message
          }}<template v-if="place.checkedAt">, looked at {{ moment(place.checkedAt) }}</template>
        </p>
        <p class="soft sessions">
          {{ plural(place.sessions.open, 'session') }} open<template v-if="place.remote"
            >, {{ place.sessions.most }} at most</template
          >
        </p>
        <ul v-if="place.ok && place.cannot.length">
          <li v-for="line in place.cannot" :key="line">{{ line }}</li>
        </ul>
        <p v-else-if="place.ok" class="soft">Everything can be had here.</p>
      </article>
    </section>
  </div>
  <p v-else class="soft loading" role="status">Asking what is there</p>
</template>

<style scoped>
.places {
  padding: 18px 24px;
  display: grid;
  gap: 10px;
  align-content: start;
  height: 100%;
  overflow: auto;
  max-width: 1080px;
}
h1 {
  font-size: 20px;
  margin: 0;
}
h2 {
  font-size: 13px;
  margin: 10px 0 6px;
  border-bottom: 1px solid var(--line);
  padding-bottom: 4px;
}
article {
  display: grid;
  grid-template-columns: 230px minmax(0, 1fr) 190px;
  gap: 2px 18px;
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
h3 {
  margin: 0;
  font-size: 14px;
  display: flex;
  align-items: baseline;
  gap: 8px;
}
h3 small {
  font-weight: 400;
}
h3 i {
  flex: 0 0 9px;
  height: 9px;
  background: var(--sea);
}
.down h3 i {
  background: none;
  border: 2px solid var(--brick);
}
.sessions {
  text-align: right;
}
article ul,
article > p:not(.sessions):last-child {
  grid-column: 2 / 4;
}
p {
  margin: 0;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.brick {
  color: var(--brick);
}
code {
  overflow-wrap: anywhere;
}
.loading {
  padding: 24px;
}
</style>
