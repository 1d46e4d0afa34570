<script setup lang="ts">
import { computed } from 'vue';
import { causeNames } from '../../core/causes/cause.ts';
import { foldFamilies } from '../../core/families/first.ts';
import type { RunFamily } from '../types.ts';
import { plural, probability, sinceText } from '../words.ts';
import FamilyGlyphs from './FamilyGlyphs.vue';
import Standing from './Standing.vue';

/** The families of one run: what happened in words, where, since when, and what people decided. */
const props = defineProps<{ families: RunFamily[]; at: number }>();
const all = defineModel<boolean>('all', { default: false });
const most = 5;
const folded = computed(() => foldFamilies(props.families, all.value ? Infinity : most, Date.now()));
/** How many there would be to fold. */
const foldable = computed(() => foldFamilies(props.families, most, Date.now()).folded.length);
</script>

<template>
  <section aria-label="Families">
    <div class="family head soft">
      <h2>Families</h2>
      <span /><span>tests</span><span>leading suspect</span><span /><span>since</span><span>state</span>
    </div>
    <RouterLink
      v-for="family in folded.shown"
      :key="family.id"
      class="family row"
      :to="`/dossiers/${family.id}`"
      :class="family.allFlaky ? 'amber-edge' : 'brick-edge'"
    >
      <FamilyGlyphs :family="family" />
      <strong class="one-line" :title="family.sentence">{{ family.sentence }}</strong>
      <span
        >{{ plural(family.tests, 'test')
        }}<small class="soft">{{ plural(family.environments, 'environment') }}</small></span
      >
      <span class="cause">{{ family.leading ? causeNames[family.leading.cause] : 'none stands out' }}</span>
      <span class="lead"
        ><template v-if="family.leading"
          ><i><b :style="{ width: `${family.leading.probability * 100}%` }" /></i
          >{{ probability(family.leading.probability) }}</template
        ></span
      >
      <span>{{ sinceText(family, at) }}</span>
      <Standing :verdict="family.verdict" class="standing" />
    </RouterLink>
    <button v-if="foldable" type="button" class="plain sea more" :aria-expanded="all" @click="all = !all">
      {{ all ? `fold ${foldable} of them` : folded.words }}
    </button>
  </section>
</template>

<style scoped>
.family {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr) 92px 132px 100px 92px 132px;
  gap: 12px;
  align-items: center;
  padding: 0 12px;
}
.head {
  padding-bottom: 4px;
  font-size: 12px;
}
.family.row {
  background: var(--paper);
  border: 1px solid var(--line);
  border-left: 5px solid var(--brick);
  margin-bottom: 6px;
  min-height: 42px;
  color: var(--ink);
}
.family.row:hover {
  text-decoration: none;
  border-color: var(--timber);
}
.family.amber-edge {
  border-left-color: var(--amber);
}
.family strong {
  font-weight: 600;
}
.family small {
  display: block;
  font-size: 11.5px;
}
.more {
  padding: 0 17px 4px;
}
.cause {
  line-height: 1.25;
}
.lead {
  display: flex;
  gap: 8px;
  align-items: center;
}
.lead i {
  flex: 1;
  height: 7px;
  background: var(--line);
  border-radius: 4px;
  overflow: hidden;
}
.lead b {
  display: block;
  height: 100%;
  background: var(--brick);
}
.standing {
  font-size: 12px;
  min-width: 0;
  overflow: hidden;
}
</style>
