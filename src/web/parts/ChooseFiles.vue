<script setup lang="ts">
import { useDeliveries } from '../stores/deliveries.ts';
import { chosenFiles } from '../upload.ts';

/** The way in for those who do not drag: files or a folder from a dialog. */
const deliveries = useDeliveries();
function choose(event: Event): void {
  const input = event.target as HTMLInputElement;
  if (input.files) void deliveries.take(chosenFiles(input.files));
  input.value = '';
}
</script>

<template>
  <p class="way-in soft">
    Drop reports, logs, HARs, pictures, videos or a whole folder anywhere, or
    <label class="choose">choose files<input type="file" multiple class="spoken" @change="choose" /></label>,
    <label class="choose">a folder<input type="file" webkitdirectory class="spoken" @change="choose" /></label>.
  </p>
</template>

<style scoped>
.choose {
  color: var(--sea);
  text-decoration: underline;
  text-underline-offset: 2px;
  cursor: pointer;
}
.choose:focus-within {
  outline: 2px solid var(--sea);
}
</style>
