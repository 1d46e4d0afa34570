import { defineStore } from 'pinia';
import { watch } from 'vue';
import { useBenchEvidence } from './bench-evidence.ts';
import { useBenchFocus } from './bench-focus.ts';
import { useBenchLists } from './bench-lists.ts';
import { useBenchTime } from './bench-time.ts';

/** What the bench shows: the evidence of one attempt, what of it is looked at, the lists beside it, and its time. */
export const useBench = defineStore('bench', () => {
  const evidence = useBenchEvidence();
  const focus = useBenchFocus(evidence);
  const lists = useBenchLists(evidence);
  const time = useBenchTime(evidence);
  // The level's own surroundings are needed by the exhibit, also when the scaffold looks elsewhere.
  watch(focus.level, (at) => {
    if (!time.playing && !evidence.known(at, at)) void evidence.see(Math.max(0, at - 200), at + 200);
  });
  return { ...evidence, ...focus, ...lists, time };
});
