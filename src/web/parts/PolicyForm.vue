<script setup lang="ts">
import type { PolicyPreview, Voice } from '../../core/rules/preview.ts';
import {
  effects,
  type ConsolePolicy,
  type Effect,
  type RequestPolicy,
  type RiskPolicy,
} from '../../core/rules/standing-rules.ts';
import type { PolicyName } from '../../core/rules/against.ts';
import { literal } from '../../core/patterns/literal.ts';
import ExemptionRows from './ExemptionRows.vue';
import LinesField from './LinesField.vue';
import PolicyVoices from './PolicyVoices.vue';

/** One policy: what it is about on the left, what it would have done on the right. */
defineProps<{
  name: PolicyName;
  title: string;
  says: string;
  told: PolicyPreview | undefined;
  now: number;
  /** What “only” is a part of, and what it says while it is empty. */
  of?: string;
  every?: string;
}>();
const policy = defineModel<ConsolePolicy | RequestPolicy | RiskPolicy>({ required: true });
const effectWords: Record<Effect, string> = { off: 'off', tells: 'only tell', fails: 'fail the attempt' };
const longest = 160;

/** A voice as a pattern: numbers vary. */
function letPass({ text }: Voice): void {
  const pattern = literal(text.slice(0, longest)).replace(/\d+/g, '\\d+');
  const twoWeeks = Date.now() + 14 * 86_400_000;
  policy.value.exempt.push({ pattern, reason: '', owner: '', until: twoWeeks });
}
</script>

<template>
  <section :id="name" class="tried" :aria-label="title">
    <div class="form">
      <h2>{{ title }}</h2>
      <p class="soft small">{{ says }}</p>
      <div class="effects" role="radiogroup" :aria-label="`What ${title} does`">
        <label v-for="effect in effects" :key="effect" class="choice"
          ><input v-model="policy.effect" type="radio" :name="`${name}-effect`" :value="effect" />
          {{ effectWords[effect] }}</label
        >
      </div>
      <slot />
      <LinesField
        :id="`${name}-only`"
        v-model="policy.only"
        :label="`Only ${of ?? 'at these addresses'}, a part of one on each line`"
        :placeholder="every ?? 'every address'"
      />
      <ExemptionRows v-model="policy.exempt" :name="title" :told="told?.exempted" />
    </div>
    <PolicyVoices v-if="told" :told="told" :now="now" :off="policy.effect === 'off'" @exempt="letPass" />
  </section>
</template>

<style scoped>
.effects {
  display: flex;
  gap: 16px;
}
</style>
