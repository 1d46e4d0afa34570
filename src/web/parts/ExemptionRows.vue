<script setup lang="ts">
import InputText from 'primevue/inputtext';
import type { Exemption } from '../../core/rules/standing-rules.ts';
import { plural } from '../words.ts';

/** What a policy lets pass: each with a pattern, a reason, an owner and an end. */
defineProps<{ name: string; told: { attempts: number; ended: number }[] | undefined }>();
const exempt = defineModel<Exemption[]>({ required: true });

const dayOf = (at: number | null): string => (at === null ? '' : new Date(at).toLocaleDateString('sv-SE'));
function setEnd(one: Exemption, day: string): void {
  const end = new Date(`${day}T23:59:59`).getTime();
  one.until = Number.isFinite(end) ? end : null;
}
const remove = (i: number): void => void exempt.value.splice(i, 1);
const over = ({ until }: Exemption): boolean => until !== null && until < Date.now();
</script>

<template>
  <div v-if="exempt.length" class="exempt" role="group" :aria-label="`Exemptions of ${name}`">
    <div v-for="(one, i) in exempt" :key="i" :class="['one', { over: over(one) }]">
      <InputText v-model="one.pattern" size="small" fluid class="mono" :aria-label="`Pattern ${i + 1}`" />
      <InputText
        v-model="one.reason"
        size="small"
        fluid
        :invalid="!one.reason.trim()"
        placeholder="why it is let pass"
        :aria-label="`Reason ${i + 1}`"
      />
      <InputText v-model="one.owner" size="small" placeholder="whose it is" :aria-label="`Owner ${i + 1}`" />
      <label class="soft"
        >until
        <input
          type="date"
          :value="dayOf(one.until)"
          :aria-label="`End ${i + 1}`"
          @change="setEnd(one, ($event.target as HTMLInputElement).value)"
      /></label>
      <span class="soft said"
        ><template v-if="told?.[i]"
          ><b v-if="told[i].ended" class="brick"
            >it ended: {{ plural(told[i].ended, 'attempt') }} since {{ told[i].ended === 1 ? 'is' : 'are' }} not let
            pass</b
          ><b v-else-if="over(one)" class="brick">it ended</b
          ><template v-else>lets {{ plural(told[i].attempts, 'attempt') }} pass</template></template
        ></span
      >
      <button type="button" class="plain sea" @click="remove(i)">remove</button>
    </div>
  </div>
</template>

<style scoped>
.exempt {
  display: grid;
  gap: 8px;
}
.one {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 3px 8px;
  align-items: center;
  border-left: 3px solid var(--steel);
  padding-left: 8px;
  font-size: 12px;
}
.one.over {
  border-left-color: var(--brick);
}
.one > :nth-child(4) {
  justify-self: end;
}
.one > button {
  justify-self: end;
}
input[type='date'] {
  font: inherit;
  font-size: 12px;
  color: var(--ink);
  background: var(--paper);
  border: 1px solid var(--timber);
  border-radius: 3px;
  padding: 3px 5px;
}
</style>
