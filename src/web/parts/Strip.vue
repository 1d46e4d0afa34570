<script setup lang="ts">
/** The strip on top of a screen: where one is, and what it says in one sentence. */
defineProps<{ title: string; edge?: 'brick' | 'amber' | 'sea' | 'none' }>();
</script>

<template>
  <div class="strip" :class="`edge-${edge ?? 'none'}`">
    <div class="words">
      <p class="crumbs soft one-line"><slot name="crumbs" /></p>
      <h1 class="one-line" :title="title">{{ title }}</h1>
      <p class="under soft mono one-line"><slot name="under" /></p>
    </div>
    <div class="right"><slot /></div>
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  gap: 16px;
  align-items: center;
  background: var(--paper);
  border-bottom: 1px solid var(--line);
  border-left: 6px solid transparent;
  padding: 8px 18px 8px 14px;
  min-height: 66px;
}
.strip.edge-brick {
  border-left-color: var(--brick);
}
.strip.edge-amber {
  border-left-color: var(--amber);
}
.strip.edge-sea {
  border-left-color: var(--sea);
}
.words {
  flex: 1;
  min-width: 0;
}
.crumbs {
  font-size: 12px;
}
.crumbs :deep(a) {
  text-decoration: underline;
  text-underline-offset: 2px;
  text-decoration-color: color-mix(in srgb, currentColor 40%, transparent);
}
.under:empty {
  display: none;
}
.right {
  display: flex;
  gap: 10px;
  align-items: stretch;
}
</style>
