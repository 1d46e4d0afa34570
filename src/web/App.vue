<script setup lang="ts">
import Dialog from 'primevue/dialog';
import Toast from 'primevue/toast';
import { onBeforeUnmount, onMounted, ref } from 'vue';
import { useRoute } from 'vue-router';
import { keyHints } from './keys.ts';

const route = useRoute();
const places = [
  { to: '/', name: 'Arrivals', of: ['arrivals', 'run', 'bench'] },
  { to: '/dossiers', name: 'Dossiers', of: ['dossiers', 'dossier'] },
  { to: '/drills', name: 'Drills', of: ['drills', 'drill'] },
];
const showKeys = ref(false);

function onKey(event: KeyboardEvent): void {
  if (event.key === '?' && !(event.target as HTMLElement).closest('input, textarea')) showKeys.value = true;
}
onMounted(() => window.addEventListener('keydown', onKey));
onBeforeUnmount(() => window.removeEventListener('keydown', onKey));
</script>

<template>
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
    <button class="plain help" aria-label="Keys of this screen" @click="showKeys = true">?</button>
  </header>
  <main id="content" tabindex="-1"><RouterView :key="String(route.params.id ?? route.name)" /></main>
  <footer class="foot">
    <span v-for="hint in keyHints" :key="hint.keys" class="hint"
      ><kbd>{{ hint.keys }}</kbd> {{ hint.does }}</span
    >
    <span class="glyphs"><slot name="glyphs" /></span>
  </footer>
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
#app {
  height: 100vh;
  display: grid;
  grid-template-rows: 42px minmax(0, 1fr) 26px;
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
  gap: 16px;
  white-space: nowrap;
  overflow: hidden;
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
