<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, reactive, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { DeliveredFile, DeliveryView, FileFate } from '../../core/records.ts';
import { api } from '../api.ts';
import { useKeys } from '../keys.ts';
import { useChanges } from '../live.ts';
import Trouble from '../parts/Trouble.vue';
import { fateCount, fateOrder, fateWords, megabytes, moment, plural } from '../words.ts';

/** One delivery file by file, while it comes and is read: what became of each, and what can be opened. */
const route = useRoute();
const router = useRouter();
const id = computed(() => String(route.params.id));
const fate = computed(() => fateOrder.find((one) => one === route.query.fate));
const view = ref<DeliveryView>();
const error = ref<unknown>();

const rowHeight = 28;
const pageSize = 200;
const of = ref(0);
/** Rows by where they stand; only what is looked at is asked for. */
const pages = reactive(new Map<number, DeliveredFile[]>());
const frame = ref<HTMLElement>();
const top = ref(0);
const height = ref(600);
const first = computed(() => Math.max(0, Math.floor(top.value / rowHeight) - 5));
const last = computed(() => Math.min(of.value, Math.ceil((top.value + height.value) / rowHeight) + 5));
const rows = computed(() => {
  const out: { at: number; file: DeliveredFile | undefined }[] = [];
  for (let at = first.value; at < last.value; at++)
    out.push({ at, file: pages.get(Math.floor(at / pageSize))?.[at % pageSize] });
  return out;
});

async function loadPage(page: number): Promise<void> {
  const query = `from=${page * pageSize}&limit=${pageSize}${fate.value ? `&fate=${encodeURIComponent(fate.value)}` : ''}`;
  const got = await api<{ files: DeliveredFile[]; of: number }>('GET', `/deliveries/${id.value}/files?${query}`);
  pages.set(page, got.files);
  of.value = got.of;
}
async function load(): Promise<void> {
  try {
    view.value = await api<DeliveryView>('GET', `/deliveries/${id.value}`);
    if (view.value.here)
      for (let page = Math.floor(first.value / pageSize); page <= Math.floor(last.value / pageSize); page++)
        await loadPage(page);
    error.value = undefined;
  } catch (problem) {
    error.value = problem;
  }
}
function scrolled(): void {
  top.value = frame.value?.scrollTop ?? 0;
  height.value = frame.value?.clientHeight ?? 600;
  for (let page = Math.floor(first.value / pageSize); page <= Math.floor(last.value / pageSize); page++)
    if (!pages.has(page) && page * pageSize < of.value) void loadPage(page);
}
function show(one: FileFate | undefined): void {
  pages.clear();
  void router.replace({ query: one ? { fate: one } : {} }).then(() => {
    if (frame.value) frame.value.scrollTop = 0;
    scrolled();
    return load();
  });
}
let resize: ResizeObserver | undefined;
onMounted(() => {
  void load().then(() => {
    scrolled();
    resize = new ResizeObserver(scrolled);
    if (frame.value) resize.observe(frame.value);
  });
});
onBeforeUnmount(() => resize?.disconnect());
useChanges(
  (change) => change.type === 'delivery' && change.id === id.value,
  () => void load(),
  400,
);
useKeys([{ keys: 'Esc', does: 'back to Arrivals' }], (event) => {
  if (event.key !== 'Escape') return false;
  void router.push('/');
  return true;
});

const ended = computed(() => view.value?.state === 'done' || view.value?.state === 'failed');
const sentShare = computed(() => (view.value?.size ? view.value.sent / view.value.size : 1));
/** It is being worked at, and nobody knows how much of it there is. */
const unknown = computed(() => view.value?.state === 'reading' && view.value.of === null);
const doneShare = computed(() => {
  if (ended.value || unknown.value) return 1;
  const { of: all = null, done = 0 } = view.value ?? {};
  return all ? Math.min(1, done / all) : 0;
});
const reading = computed(() => {
  const { doing = '', done = 0, of: all = null } = view.value ?? {};
  if (ended.value || !done) return doing;
  return `${doing}: ${done.toLocaleString('en')}${all ? ` of ${all.toLocaleString('en')}` : ''}`;
});
const counts = computed(() => fateOrder.filter((one) => view.value?.fates[one] || one === fate.value));
async function stop(): Promise<void> {
  await api('DELETE', `/deliveries/${id.value}`);
  void router.push('/');
}
</script>

<template>
  <Trouble v-if="error" :error="error" @again="load" />
  <div v-else-if="view" class="page">
    <header>
      <div>
        <h1>{{ plural(view.files, 'file') }}, {{ megabytes(view.size) }}</h1>
        <p class="soft">since {{ moment(view.begunAt) }}</p>
      </div>
      <dl>
        <dt>Sent</dt>
        <dd>
          <i class="track"><b class="sent" :style="{ width: `${sentShare * 100}%` }" /></i>{{ megabytes(view.sent) }} of
          {{ megabytes(view.size) }}
        </dd>
        <dt>Read</dt>
        <dd>
          <i class="track"><b :class="{ unknown }" :style="{ width: `${doneShare * 100}%` }" /></i
          ><span aria-live="polite" class="one-line">{{ reading }}</span>
        </dd>
      </dl>
      <RouterLink v-if="view.result?.runId" :to="`/runs/${view.result.runId}`">open the run</RouterLink>
      <button v-else-if="!ended" class="plain sea" @click="stop">Stop, and keep nothing of it</button>
    </header>
    <p v-if="view.problem" class="brick trouble" role="alert">{{ view.problem }}</p>
    <p v-if="!view.here" class="soft away">
      What became of each file is told while Iskel that took them runs; what waits is in the run’s tray. A delivery that
      was sent in part is gone on with by sending the same files again.
    </p>
    <template v-else>
      <nav class="fates" aria-label="What became of them">
        <button class="plain" :class="{ on: !fate }" :aria-pressed="!fate" @click="show(undefined)">all</button>
        <button
          v-for="one in counts"
          :key="one"
          class="plain"
          :class="[one.replace(' ', '-'), { on: fate === one }]"
          :aria-pressed="fate === one"
          @click="show(one)"
        >
          {{ fateCount(one, view.fates[one] ?? 0) }}
        </button>
      </nav>
      <div ref="frame" class="list" tabindex="0" role="table" aria-label="Files" :aria-rowcount="of" @scroll="scrolled">
        <div :style="{ height: `${of * rowHeight}px` }" role="rowgroup">
          <div
            v-for="{ at, file } in rows"
            :key="at"
            role="row"
            :aria-rowindex="at + 1"
            class="row"
            :class="file?.fate.replace(' ', '-')"
            :style="{ transform: `translateY(${at * rowHeight}px)` }"
          >
            <template v-if="file">
              <span role="cell" class="fate">{{ fateWords[file.fate] }}</span>
              <span role="cell" class="mono one-line name" :title="file.name"
                ><bdi>{{ file.name }}</bdi></span
              >
              <RouterLink
                v-if="file.attemptId"
                role="cell"
                class="one-line"
                :title="file.says"
                :to="`/attempts/${file.attemptId}`"
                >{{ file.says }}</RouterLink
              >
              <span v-else role="cell" class="soft one-line" :title="file.says">{{ file.says }}</span>
            </template>
          </div>
        </div>
        <p v-if="!of" class="soft none">No file {{ fate ? `is ${fateWords[fate]}` : 'yet' }}.</p>
      </div>
    </template>
  </div>
</template>

<style scoped>
.page {
  height: 100%;
  display: flex;
  flex-direction: column;
  padding: 14px 18px;
}
header {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  gap: 36px;
  align-items: center;
  background: var(--paper);
  border: 1px solid var(--line);
  border-left: 4px solid var(--timber);
  padding: 10px 14px;
}
h1 {
  font-size: 15px;
}
dl {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 4px 12px;
  margin: 0;
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
  display: grid;
  grid-template-columns: minmax(80px, 260px) minmax(0, 1fr);
  gap: 12px;
  align-items: center;
}
.track {
  height: 7px;
  background: var(--line);
  overflow: hidden;
}
.track b {
  display: block;
  height: 100%;
  background: var(--timber);
}
.track b.sent {
  background: var(--steel);
}
.track b.unknown {
  background: repeating-linear-gradient(90deg, var(--timber) 0 6px, transparent 6px 12px);
}
.trouble,
.away {
  padding: 12px 2px;
  max-width: 820px;
}
.fates {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  padding: 10px 2px;
}
.fates button {
  padding: 2px 0;
  color: var(--soft);
  border-bottom: 2px solid transparent;
}
.fates .on {
  color: var(--ink);
  border-bottom-color: var(--timber);
}
.list {
  flex: 1;
  min-height: 0;
  overflow: auto;
  background: var(--paper);
  border: 1px solid var(--line);
  position: relative;
}
.row {
  position: absolute;
  inset: 0 0 auto;
  height: 28px;
  display: grid;
  grid-template-columns: 104px minmax(0, 5fr) minmax(0, 6fr);
  gap: 14px;
  align-items: center;
  padding: 0 14px;
  border-bottom: 1px solid color-mix(in srgb, var(--line) 55%, transparent);
  font-size: 12.5px;
}
.name {
  direction: rtl;
  text-align: left;
  font-size: 12px;
}
.fate {
  color: var(--soft);
  padding-left: 8px;
  border-left: 3px solid var(--line);
}
.placed .fate,
.shared .fate,
.report .fate {
  border-left-color: var(--sea);
  color: var(--ink);
}
.waits .fate {
  border-left-color: var(--amber);
  color: var(--amber-text);
}
.left-out .fate {
  border-left-color: var(--brick);
}
.read .fate {
  border-left-color: var(--timber);
}
.none {
  padding: 14px;
}
</style>
