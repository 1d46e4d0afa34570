<script setup lang="ts">
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { partNames, parts, type Part } from '../../core/hand-over/hand-over.ts';
import { asError } from '../../core/background.ts';
import { apiText } from '../api.ts';
import { useActs } from '../act.ts';
import { useKeys } from '../keys.ts';
import { useSay } from '../tell.ts';
import CoverPicture, { type Box } from '../parts/CoverPicture.vue';
import Strip from '../parts/Strip.vue';
import Trouble from '../parts/Trouble.vue';

/** One page for somebody who has no Iskel: looked at, parts left out and pictures covered before it leaves. */
const route = useRoute();
const router = useRouter();
const id = String(route.params.id);
const say = useSay();
const { busy, act } = useActs();

const left = ref(
  new Set(
    String(route.query.without ?? '')
      .split(',')
      .filter(Boolean) as Part[],
  ),
);
const covered = ref<Box[][]>([]);
const page = ref('');
const title = ref('Hand over');
const uncovered = ref<{ source: string; words: string }[]>([]);
const error = ref<unknown>();
/** What cannot be put on the clipboard is shown, to be taken from there. */
const shown = ref<{ as: string; text: string }>();

const order = (as: 'html' | 'text' | 'markdown'): object => ({
  as,
  without: [...left.value],
  blurred: covered.value.flatMap((boxes, picture) => boxes.map((box) => ({ picture, ...box }))),
});
const written = (as: 'html' | 'text' | 'markdown'): Promise<string> =>
  apiText('POST', `/attempts/${encodeURIComponent(id)}/hand-over`, order(as));

let asked = 0;
async function load(): Promise<void> {
  const mine = ++asked;
  try {
    const text = await written('html');
    if (mine !== asked) return;
    page.value = text;
    error.value = undefined;
    const read = new DOMParser().parseFromString(text, 'text/html');
    title.value = read.title;
    // Pictures are covered on what they were before any was.
    if (!uncovered.value.length) {
      const figures = read.querySelectorAll('figure img');
      uncovered.value = [...figures].map((one) => ({
        source: one.getAttribute('src') ?? '',
        words: one.getAttribute('alt') ?? '',
      }));
    }
  } catch (problem) {
    if (mine === asked) error.value = problem;
  }
}
/** What is shown is what leaves: whoever saves it has looked at it. */
let shownAs = load();
watch(
  () => [[...left.value].join(), JSON.stringify(covered.value)],
  () => (shownAs = load()),
);

const size = computed(() => new Blob([page.value]).size);

function toggle(part: Part): void {
  const next = new Set(left.value);
  if (!next.delete(part)) next.add(part);
  left.value = next;
  void router.replace({ query: next.size ? { without: [...next].join() } : {} });
}
function cover(picture: number, boxes: Box[]): void {
  covered.value = uncovered.value.map((_, i) => (i === picture ? boxes : (covered.value[i] ?? [])));
}

const save = (): Promise<void> =>
  act(async () => {
    await shownAs;
    if (error.value) throw asError(error.value);
    const address = URL.createObjectURL(new Blob([page.value], { type: 'text/html' }));
    const link = document.createElement('a');
    link.href = address;
    link.download = `${id}.html`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(address), 60_000);
    say('The page is saved');
  }, 'The page could not be written');

const copy = (as: 'text' | 'markdown'): Promise<void> =>
  act(async () => {
    const text = await written(as);
    const name = as === 'text' ? 'Text' : 'Markdown';
    try {
      await navigator.clipboard.writeText(text);
      shown.value = undefined;
      say(`${name} copied`);
    } catch {
      shown.value = { as: name, text };
    }
  }, 'It could not be written');

useKeys(
  [
    { keys: 'S', does: 'save the page' },
    { keys: 'M', does: 'copy as Markdown' },
    { keys: 'X', does: 'copy as text' },
    { keys: 'B', does: 'bench' },
  ],
  (event) => {
    switch (event.key.toLowerCase()) {
      case 's':
        void save();
        return true;
      case 'm':
        void copy('markdown');
        return true;
      case 'x':
        void copy('text');
        return true;
      case 'b':
        void router.push(`/attempts/${id}`);
        return true;
    }
    return false;
  },
);
</script>

<template>
  <Trouble v-if="error && !page" :error="error" @again="load" />
  <div v-else class="hand-over">
    <Strip :title="title" edge="brick">
      <template #crumbs><RouterLink :to="`/attempts/${id}`">The bench</RouterLink> / hand over</template>
      <Button label="Copy as Markdown" size="small" severity="secondary" :disabled="busy" @click="copy('markdown')" />
      <Button label="Copy as text" size="small" severity="secondary" :disabled="busy" @click="copy('text')" />
      <Button label="Save the page" size="small" :disabled="busy" @click="save" />
    </Strip>
    <div class="halves">
      <aside aria-label="What leaves">
        <h2>What leaves</h2>
        <ul>
          <li v-for="part in parts" :key="part">
            <label
              ><input type="checkbox" :checked="!left.has(part)" @change="toggle(part)" /> {{ partNames[part] }}</label
            >
          </li>
        </ul>
        <p class="soft">
          One file of {{ (size / 1024).toFixed(0) }} KiB, without scripts; nothing in it is fetched. Secrets were masked
          when they were recorded, in texts. Pictures show what was on the screen: cover what is not to leave.
        </p>
        <template v-if="!left.has('pictures')">
          <CoverPicture
            v-for="(picture, i) in uncovered"
            :key="i"
            :source="picture.source"
            :words="picture.words"
            :boxes="covered[i] ?? []"
            @change="cover(i, $event)"
          />
        </template>
        <p v-if="error" class="brick" role="alert">{{ (error as Error).message }}</p>
      </aside>
      <div class="sheet">
        <label v-if="shown" class="taken"
          >{{ shown.as }}; the clipboard is closed to this page, take it from here
          <textarea readonly rows="10" :value="shown.text" class="mono"></textarea>
        </label>
        <iframe v-if="page" title="The page as it leaves" sandbox="" referrerpolicy="no-referrer" :srcdoc="page" />
        <p v-else class="soft" role="status">The page is being written.</p>
      </div>
    </div>
  </div>
</template>

<style scoped>
.halves {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 18px;
  padding: 12px 18px;
}
aside {
  display: grid;
  gap: 10px;
  align-content: start;
  font-size: 13px;
}
ul {
  list-style: none;
  display: grid;
  gap: 3px;
}
.sheet {
  display: grid;
  gap: 10px;
  align-content: start;
}
iframe {
  width: 100%;
  height: calc(100vh - 190px);
  min-height: 420px;
  border: 1px solid var(--line);
  background: #f3f0e8;
}
textarea {
  display: block;
  width: 100%;
  margin-top: 4px;
  font-size: 12px;
}
</style>
