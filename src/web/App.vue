<script setup lang="ts">
import Dialog from 'primevue/dialog';
import Toast from 'primevue/toast';
import { onBeforeUnmount, onMounted, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { keyHints } from './keys.ts';
import FaultNotice from './parts/FaultNotice.vue';
import { useChanges } from './live.ts';
import { useDeliveries } from './stores/deliveries.ts';
import { droppedFiles } from './upload.ts';

const route = useRoute();
const places = [
  { to: '/', name: 'Arrivals', of: ['arrivals', 'run', 'bench', 'find', 'delivery'] },
  { to: '/dossiers', name: 'Dossiers', of: ['dossiers', 'dossier'] },
  { to: '/drills', name: 'Drills', of: ['drills', 'drill'] },
  { to: '/trends', name: 'Trends', of: ['trends', 'test'] },
  { to: '/next', name: 'Next', of: ['next'] },
  { to: '/rules', name: 'Rules', of: ['rules'] },
  { to: '/places', name: 'Places', of: ['places'] },
];
const showKeys = ref(false);
const router = useRouter();
const deliveries = useDeliveries();
const words = ref('');
const dropping = ref(false);
let inside = 0;

/** Deliveries of others are under way wherever one looks. */
const lookAtDeliveries = (): void => void deliveries.load().catch(() => undefined);
lookAtDeliveries();
useChanges(({ type }) => type === 'delivery', lookAtDeliveries, 400);

function find(): void {
  if (words.value.trim()) void router.push({ path: '/find', query: { words: words.value.trim() } });
}

/** Files may be dropped on any screen; on a run's own they go into that run. */
const carriesFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes('Files') === true;
function over(event: DragEvent, by: 1 | -1): void {
  if (!carriesFiles(event)) return;
  inside += by;
  dropping.value = inside > 0;
}
async function drop(event: DragEvent): Promise<void> {
  if (!carriesFiles(event)) return;
  event.preventDefault();
  inside = 0;
  dropping.value = false;
  const files = await droppedFiles(event.dataTransfer!);
  const run = route.name === 'run' ? String(route.params.id) : undefined;
  if (!run) void router.push('/');
  await deliveries.take(files, run);
}

function onKey(event: KeyboardEvent): void {
  if (event.key === '?' && !(event.target as HTMLElement).closest('input, textarea')) showKeys.value = true;
}
onMounted(() => window.addEventListener('keydown', onKey));
onBeforeUnmount(() => window.removeEventListener('keydown', onKey));
</script>

<template>
  <div
    class="frame"
    @dragenter="over($event, 1)"
    @dragleave="over($event, -1)"
    @dragover="carriesFiles($event) && $event.preventDefault()"
    @drop="drop"
  >
    <a class="skip" href="#content">To the content</a>
    <header class="topbar">
      <RouterLink to="/" class="name">iskel</RouterLink>
      <nav aria-label="Main">
        <RouterLink
          v-for="place in places"
          :key="place.to"
          :to="place.to"
          :class="{ here: place.of.includes(String(route.name)) }"
        >
          {{ place.name }}
        </RouterLink>
      </nav>
      <form role="search" @submit.prevent="find">
        <label for="find" class="spoken">Find a test, message, request</label>
        <input id="find" v-model="words" type="search" placeholder="Find a test, message, request…" />
      </form>
      <button class="plain help" aria-label="Keys of this screen" @click="showKeys = true">?</button>
    </header>
    <main id="content" tabindex="-1"><RouterView :key="String(route.params.id ?? route.name)" /></main>
    <footer class="foot">
      <span v-for="hint in keyHints" :key="hint.keys" class="hint"
        ><kbd>{{ hint.keys }}</kbd> {{ hint.does }}</span
      >
      <span class="glyphs"><slot name="glyphs" /></span>
      <FaultNotice />
    </footer>
    <p v-if="dropping" class="drop-here">
      {{ route.name === 'run' ? 'Drop to add them to this run' : 'Drop to take them in' }}
    </p>
  </div>
  <Dialog v-model:visible="showKeys" modal header="Keys of this screen" :style="{ width: '26rem' }">
    <dl class="keys">
      <template v-for="hint in keyHints" :key="hint.keys">
        <dt>
          <kbd>{{ hint.keys }}</kbd>
        </dt>
        <dd>{{ hint.does }}</dd>
      </template>
      <dt><kbd>?</kbd></dt>
      <dd>this list</dd>
    </dl>
  </Dialog>
  <Toast position="bottom-right" />
</template>

<style>
.frame {
  height: 100vh;
  display: grid;
  grid-template-rows: 42px minmax(0, 1fr) minmax(26px, auto);
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  z-index: 20;
  background: var(--paper);
  padding: 6px 10px;
}
.topbar {
  background: var(--bar);
  color: var(--bar-ink);
  display: flex;
  align-items: center;
  gap: 36px;
  padding: 0 18px;
}
.topbar a {
  color: var(--bar-soft);
}
.topbar a:hover {
  color: var(--bar-ink);
  text-decoration: none;
}
.topbar .name {
  font-size: 17px;
  font-weight: 600;
  color: var(--bar-ink);
  letter-spacing: 0.01em;
}
.topbar nav {
  display: flex;
  gap: 32px;
  flex: 1;
}
.topbar nav .here {
  color: var(--bar-ink);
  box-shadow: 0 13px 0 -10px var(--timber);
}
.topbar input {
  width: 290px;
  background: color-mix(in srgb, var(--bar-ink) 10%, transparent);
  border: 1px solid transparent;
  color: var(--bar-ink);
  font: inherit;
  padding: 4px 10px;
}
.topbar input::placeholder {
  color: var(--bar-soft);
}
.drop-here {
  position: fixed;
  inset: 42px 0 26px;
  display: grid;
  place-items: center;
  font-size: 18px;
  font-weight: 600;
  background: color-mix(in srgb, var(--timber-pale) 82%, transparent);
  border: 3px dashed var(--timber);
  pointer-events: none;
  z-index: 10;
}
.topbar .help {
  color: var(--bar-soft);
  padding: 4px 8px;
}
.topbar :focus-visible {
  outline-color: var(--timber);
}
main {
  min-height: 0;
  overflow: auto;
  outline: none;
}
.foot {
  border-top: 1px solid var(--line);
  background: var(--ground);
  padding: 4px 18px;
  color: var(--soft);
  font-size: 11.5px;
  display: flex;
  gap: 2px 16px;
  white-space: nowrap;
  overflow: hidden;
}
.foot:has(.fault) {
  flex-wrap: wrap;
}
kbd {
  font: 500 11px var(--mono);
  color: var(--ink);
}
.keys {
  display: grid;
  grid-template-columns: 9rem 1fr;
  gap: 6px 12px;
}
</style>
