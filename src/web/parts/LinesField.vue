<script setup lang="ts">
import Textarea from 'primevue/textarea';
import { computed } from 'vue';

/** Entries of a list, each on a line of its own. */
defineProps<{ id: string; label: string; hint?: string; placeholder?: string }>();
const list = defineModel<string[]>({ required: true });
const text = computed({
  get: () => list.value.join('\n'),
  set: (typed: string) => (list.value = typed === '' ? [] : typed.split('\n')),
});
</script>

<template>
  <div class="field">
    <label :for="id" class="soft">{{ label }}</label>
    <Textarea :id="id" v-model="text" rows="1" auto-resize fluid class="mono" :placeholder="placeholder" />
    <small v-if="hint" class="soft">{{ hint }}</small>
  </div>
</template>

<style scoped>
.field {
  display: grid;
  gap: 2px;
}
label,
small {
  font-size: 12px;
}
</style>
