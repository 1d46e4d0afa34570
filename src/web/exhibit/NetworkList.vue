<script setup lang="ts">
import { computed } from 'vue';
import { endOf } from '../../core/evidence/event.ts';
import { isFailed } from '../scaffold/drawing.ts';
import { useBench } from '../stores/bench.ts';
import { duration } from '../words.ts';
import RequestDetail from './RequestDetail.vue';
import { endedWords, requestsFor, requestText, shortUrl } from './working-list.ts';
import WorkingList from './WorkingList.vue';

/** The requests as a list to work with. */
const bench = useBench();
const rows = computed(() =>
  requestsFor(bench.requests, { ...bench.listFilter, range: bench.range }, bench.usual, bench.shown),
);
const hosts = computed(() => [...new Set(bench.requests.map(({ data }) => data.host))].slice(0, 60));
</script>

<template>
  <WorkingList
    name="Network"
    one="request"
    :all="bench.requests.length"
    :rows="rows"
    :only-choices="[{ value: 'failed', name: 'failed' }]"
    from-name="host"
    :from-choices="hosts"
    :text="requestText"
    :whole="`/api/attempts/${bench.attempt!.id}/har`"
    whole-name="All of it as HAR"
  >
    <template #more>
      <label><input v-model="bench.listFilter.inFlight" type="checkbox" /> in flight at the level</label>
    </template>
    <template #row="{ event }">
      <span class="ended" :class="{ failed: isFailed(event) }">{{ endedWords(event) }}</span>
      <span class="took">{{ duration(endOf(event) - event.at) }}</span>
      <span class="one-line">{{ event.data.method }} {{ shortUrl(event) }}</span>
    </template>
    <template #chosen="{ event }">
      <RequestDetail v-if="event" :request="event" />
    </template>
  </WorkingList>
</template>

<style scoped>
.ended {
  flex: 0 0 34px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.ended.failed {
  color: var(--brick-text);
  font-weight: 600;
}
.took {
  flex: 0 0 52px;
  text-align: right;
  color: var(--soft);
}
</style>
