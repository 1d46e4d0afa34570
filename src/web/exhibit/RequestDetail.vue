<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue';
import { endOf, type BodyEvent, type NetworkEvent } from '../../core/evidence/event.ts';
import { servedBy } from '../../core/evidence/trace-context.ts';
import { waitedFor } from '../scaffold/drawing.ts';
import { api } from '../api.ts';
import { useBench } from '../stores/bench.ts';
import { duration, seconds } from '../words.ts';
import { endedWords } from './working-list.ts';

/** One request: its phases to scale, who asked for it, its headers, what was sent and what came back. */
const props = defineProps<{ request: NetworkEvent }>();
const bench = useBench();
const took = computed(() => Math.max(0.01, endOf(props.request) - props.request.at));
const names: Readonly<Record<string, string>> = {
  blocked: 'held back',
  dns: 'name looked up',
  connect: 'connecting',
  ssl: 'securing',
  send: 'sending',
  wait: 'waiting for the first byte',
  receive: 'receiving',
};
const phases = computed(() => {
  const told = props.request.data.phases;
  if (told)
    return Object.entries(told)
      .filter(([, ms]) => ms > 0)
      .map(([name, ms]) => ({ name: names[name] ?? name, ms }));
  const first = waitedFor(props.request);
  if (first === undefined) return [];
  return [
    { name: names.wait!, ms: first },
    { name: names.receive!, ms: Math.max(0, took.value - first) },
  ];
});
/** The request whose answer asked for this one. */
const asker = computed(() => {
  const initiator = props.request.data.initiator?.replace(/:\d+$/, '');
  return initiator && bench.requests.find((one) => one.data.url === initiator && one.at <= props.request.at);
});
/** What services told of it, joined by the trace context that was sent along. */
const served = computed(() => servedBy(props.request, bench.poles.services));
/** Got when the request is looked at: a list of requests does without them. */
const bodies = shallowRef<BodyEvent[]>();
watch(
  () => props.request.id,
  async (id) => {
    bodies.value = undefined;
    const attempt = bench.attempt?.id;
    if (!attempt) return;
    const got = await api<{ bodies: BodyEvent[] }>(
      'GET',
      `/attempts/${attempt}/bodies/${encodeURIComponent(id)}`,
    ).catch(() => ({ bodies: [] }));
    if (props.request.id === id) bodies.value = got.bodies;
  },
  { immediate: true },
);
const bodyWords = (body: BodyEvent): string =>
  `${body.data.of === 'request' ? 'Sent' : 'Came back'}, ${body.data.length} ${body.data.length === 1 ? 'character' : 'characters'}`;
/** JSON is laid out to be read; anything else stays as it was. */
function laidOut({ data }: BodyEvent): string {
  if (!/json/i.test(data.mime) && !/^\s*[[{]/.test(data.text)) return data.text;
  try {
    return JSON.stringify(JSON.parse(data.text), null, 2);
  } catch {
    return data.text;
  }
}
const headers = computed(() => [
  ['Asked', props.request.data.requestHeaders] as const,
  ['Answered', props.request.data.responseHeaders] as const,
]);
</script>

<template>
  <div class="detail">
    <p class="mono url">{{ request.data.method }} {{ request.data.url }}</p>
    <p>
      {{ endedWords(request) }}, {{ duration(took) }} from {{ seconds(request.at) }} to {{ seconds(endOf(request))
      }}<template v-if="request.data.size">, {{ request.data.size }} bytes</template
      ><template v-if="request.data.mime">, {{ request.data.mime }}</template>
    </p>
    <ul v-if="phases.length" class="phases" aria-label="How its time was spent">
      <li v-for="phase in phases" :key="phase.name">
        <i :style="{ width: `${Math.min(100, (phase.ms / took) * 100)}%` }" /><span
          >{{ phase.name }} {{ duration(phase.ms) }}</span
        >
      </li>
    </ul>
    <p v-else class="soft">How its time was spent was not told.</p>
    <p v-if="request.data.initiator">
      asked for by
      <button v-if="asker" class="plain sea" @click="bench.level = asker.at">{{ request.data.initiator }}</button><span
        v-else
        >{{ request.data.initiator }}</span
      >
    </p>
    <section v-if="served.length" aria-label="What services did for it">
      <h3>What services did for it</h3>
      <ul class="served">
        <li v-for="one in served" :key="one.id">
          <button class="plain" @click="bench.point(one.id, one.at)">
            <span :class="{ brick: one.data.ok === false }">{{ one.data.label }}</span>
            <span class="soft">{{ duration(endOf(one) - one.at) }}</span>
          </button>
        </li>
      </ul>
    </section>
    <details v-for="body in bodies" :key="body.id" open>
      <summary>
        {{ bodyWords(body) }}<template v-if="body.data.mime">, {{ body.data.mime }}</template>
      </summary>
      <pre tabindex="0">{{ laidOut(body) }}</pre>
    </details>
    <details v-for="[name, list] in headers" :key="name">
      <summary>{{ name }}, {{ Object.keys(list ?? {}).length }} headers</summary>
      <p v-for="(value, key) in list" :key="key" class="mono header">{{ key }}: {{ value }}</p>
    </details>
  </div>
</template>

<style scoped>
.detail {
  display: grid;
  gap: 4px;
  max-height: 330px;
  overflow: auto;
}
.served button {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  width: 100%;
}
h3 {
  font-size: 12px;
  font-weight: 600;
}
.url,
.header {
  overflow-wrap: anywhere;
}
.phases li {
  position: relative;
  display: flex;
  align-items: center;
  height: 17px;
}
.phases i {
  position: absolute;
  inset: 2px auto 2px 0;
  background: var(--timber-pale);
  min-width: 2px;
}
.phases span {
  position: relative;
  padding-left: 4px;
}
pre {
  margin: 2px 0 0;
  max-height: 180px;
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 11px;
}
summary {
  color: var(--soft);
  cursor: pointer;
}
</style>
