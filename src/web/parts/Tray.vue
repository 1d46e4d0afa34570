<script setup lang="ts">
import { computed, ref } from 'vue';
import type { DoubtKind, EvidenceFile } from '../../core/records.ts';
import type { Sheet, SheetAttempt } from '../../core/sheet.ts';
import Select from 'primevue/select';
import { zonesOnEarth, zoneWords } from '../../core/placing/zones.ts';
import { percent, plural, seconds } from '../words.ts';

/** Files of this run: those that wait for a person first, then every placed one with why it is where it is. */
const props = defineProps<{ files: EvidenceFile[]; sheet: Sheet; chosen: SheetAttempt | undefined }>();
defineEmits<{
  place: [file: string, attempt: string | null, aside?: boolean];
  drag: [on: boolean];
  zone: [minutes: number];
}>();

const show = ref<'waiting' | 'all'>('waiting');
const waiting = computed(() => props.files.filter((file) => file.state === 'waiting'));
const listed = computed(() => (show.value === 'waiting' ? waiting.value : props.files));
const byId = computed(() => new Map(props.sheet.attempts.map((attempt) => [attempt[4], attempt])));
function name(id: string | null): string {
  const attempt = id && byId.value.get(id);
  if (!attempt) return 'an attempt';
  return `${props.sheet.tests[attempt[0]]!.title}, ${props.sheet.environments[attempt[1]]}, try ${attempt[2]}`;
}
const kinds: Record<EvidenceFile['kind'], string> = {
  video: 'video',
  picture: 'picture',
  log: 'log',
  har: 'requests',
  trace: 'trace',
  cues: 'cues',
  markup: 'page',
  text: 'text',
};
function facts({ facts: f, size }: EvidenceFile): string {
  const parts = [
    f.width ? `${f.width} × ${f.height}` : '',
    f.durationMs ? seconds(f.durationMs) : '',
    f.count && !f.width ? plural(f.count, 'entry', 'entries') : '',
  ];
  return parts.filter(Boolean).join(', ') || `${Math.ceil(size / 1024)} KiB`;
}
/** Files whose times name no zone, and the zones they were read in. */
const zoneless = computed(() => props.files.filter((file) => file.facts.zone));
const zones = computed(() => [...new Set(zoneless.value.map((file) => file.facts.zone!.minutes))]);
const doubtful = computed(() => zoneless.value.filter((file) => file.facts.zone!.how === 'doubtful').length);
const choices = [...zonesOnEarth]
  .map(([minutes]) => ({ minutes, words: zoneWords(minutes) }))
  .sort((a, b) => a.minutes - b.minutes);
/** Where its candidates stand below, why none was taken is enough. */
const short: Partial<Record<DoubtKind, string>> = {
  parallel: 'several ran at that time',
  between: 'its time lies where one ends and the next begins',
  tries: 'it does not say of which try it is',
  'other-browser': 'it does not say of which browser or window it is',
  rivals: 'several fit as well',
  little: 'what fits is not sure enough',
};
const doubtWords = ({ facts: { doubt } }: EvidenceFile): string =>
  doubt ? (short[doubt.kind] ?? doubt.words) : 'neither its name, its time nor what is in it points to an attempt';
const shown = (file: EvidenceFile): boolean => file.kind === 'picture';
</script>

<template>
  <section class="tray" aria-label="Tray">
    <div class="top">
      <h2>{{ waiting.length ? `${plural(waiting.length, 'file')} could not be placed` : 'Every file is placed' }}</h2>
      <button
        class="plain pick"
        :class="{ on: show === 'waiting' }"
        :aria-pressed="show === 'waiting'"
        @click="show = 'waiting'"
      >
        waiting
      </button>
      <button class="plain pick" :class="{ on: show === 'all' }" :aria-pressed="show === 'all'" @click="show = 'all'">
        all {{ files.length }}
      </button>
      <span class="soft"
        >Drag a file onto a cell or an attempt in it, or use its buttons. Nothing is lost by moving it.</span
      >
    </div>
    <div v-if="zoneless.length" class="zone">
      <span
        >{{ plural(zoneless.length, 'file tells', 'files tell') }} times without a zone, read as
        <b>{{ zones.map(zoneWords).join(', ') }}</b><template v-if="doubtful"
          >,
          <span class="amber"
            >{{ doubtful === zoneless.length ? 'which is' : `${doubtful} of them` }} doubtful</span
          ></template
        >.</span
      >
      <label
        >Set all to
        <Select
          :model-value="zones.length === 1 ? zones[0] : undefined"
          :options="choices"
          option-label="words"
          option-value="minutes"
          placeholder="a zone"
          size="small"
          aria-label="Zone of times that name none"
          @update:model-value="$emit('zone', $event as number)"
      /></label>
      <span v-if="zones.length === 1" class="soft">{{ zoneless[0]!.facts.zone!.words }}</span>
    </div>
    <ul>
      <li
        v-for="file in listed.slice(0, 200)"
        :key="file.id"
        :draggable="file.state !== 'spread'"
        @dragstart="($event.dataTransfer!.setData('application/x-iskel-file', file.id), $emit('drag', true))"
        @dragend="$emit('drag', false)"
      >
        <img v-if="shown(file)" :src="`/api/blobs/${file.blob}`" alt="" loading="lazy" />
        <span v-else class="soft sort">{{ kinds[file.kind] }}</span>
        <div class="name">
          <span class="mono one-line" :title="file.name">{{ file.name.split('/').slice(-2).join('/') }}</span>
          <small class="soft"
            >{{ kinds[file.kind] }}, {{ facts(file)
            }}<template v-if="file.facts.problem"> · {{ file.facts.problem }}</template></small
          >
        </div>
        <div class="why">
          <template v-if="file.state === 'waiting'">
            <span class="doubt"
              >{{ doubtWords(file) }}.
              <span v-if="file.facts.doubt" class="soft settles">{{ file.facts.doubt.settles }}.</span></span
            >
            <button
              v-for="one in file.candidates.slice(0, 3)"
              :key="one.attemptId"
              class="plain sea candidate one-line"
              :title="one.reasons.join('; ')"
              @click="$emit('place', file.id, one.attemptId)"
            >
              {{ percent(one.score) }} · {{ name(one.attemptId) }}
            </button>
          </template>
          <template v-else-if="file.state === 'put aside'"><span class="soft">put aside by hand</span></template>
          <template v-else>
            <RouterLink v-if="file.attemptId" class="one-line" :to="`/attempts/${file.attemptId}`">{{
              name(file.attemptId)
            }}</RouterLink>
            <small class="soft"
              >{{ file.reasons.join('; ')
              }}<template v-if="file.placedBy === 'evidence' && file.attemptId">
                · {{ percent(file.score) }}</template
              ></small
            >
          </template>
        </div>
        <div class="does">
          <button
            v-if="file.state !== 'spread' && chosen && chosen[4] !== file.attemptId"
            class="plain sea"
            :aria-label="`To the chosen cell: ${file.name}`"
            @click="$emit('place', file.id, chosen[4])"
          >
            To the chosen cell
          </button>
          <button v-if="file.state === 'waiting'" class="plain soft" @click="$emit('place', file.id, null, true)">
            Put aside
          </button>
          <button v-else-if="file.state !== 'spread'" class="plain soft" @click="$emit('place', file.id, null)">
            Take back
          </button>
        </div>
      </li>
      <li v-if="!listed.length" class="soft empty">
        {{
          files.length
            ? 'Nothing waits here. “all” shows where every file went and why.'
            : 'No file came with this run. Drop pictures, videos, logs or HARs anywhere on this page to add them.'
        }}
      </li>
    </ul>
  </section>
</template>

<style scoped>
.tray {
  background: var(--paper);
  border: 1px solid var(--line);
  border-left: 5px solid var(--timber);
  margin-bottom: 8px;
}
.top {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 6px 12px;
}
.top h2 {
  color: var(--ink);
}
.pick.on {
  font-weight: 600;
}
.top > span {
  margin-left: auto;
}
.zone {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  border-top: 1px solid var(--line);
  padding: 4px 12px;
}
.doubt::first-letter {
  text-transform: uppercase;
}
.settles {
  display: block;
}
.settles::first-letter {
  text-transform: uppercase;
}
ul {
  max-height: 300px;
  overflow: auto;
}
li {
  display: grid;
  grid-template-columns: 72px minmax(180px, 0.9fr) minmax(0, 1.4fr) 190px;
  gap: 12px;
  align-items: center;
  border-top: 1px solid var(--line);
  padding: 4px 12px;
  min-height: 44px;
}
li[draggable='true'] {
  cursor: grab;
}
li.empty {
  display: block;
  padding: 12px;
}
img {
  width: 72px;
  height: 40px;
  object-fit: cover;
  object-position: top left;
  border: 1px solid var(--line);
}
.sort {
  text-align: center;
  border: 1px dashed var(--line);
  padding: 8px 0;
}
.name,
.why {
  min-width: 0;
  display: grid;
}
.candidate {
  max-width: 100%;
}
.does {
  display: flex;
  gap: 14px;
  justify-content: flex-end;
  white-space: nowrap;
}
</style>
