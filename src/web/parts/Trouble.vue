<script setup lang="ts">
import { ApiError } from '../api.ts';

/** An error in words, with a way on. */
const props = defineProps<{ error: unknown }>();
const emit = defineEmits<{ again: [] }>();
const text =
  props.error instanceof ApiError
    ? props.error.message
    : `This view failed: ${String(props.error)}. Reload the page; nothing was changed.`;
</script>

<template>
  <div class="trouble" role="alert">
    <p>{{ text }}</p>
    <button class="plain sea" @click="emit('again')">Try again</button>
  </div>
</template>

<style scoped>
.trouble {
  margin: 24px 18px;
  padding: 12px 14px;
  border-left: 4px solid var(--brick);
  background: var(--paper);
  display: flex;
  gap: 18px;
}
</style>
