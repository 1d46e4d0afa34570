import { ref, type Ref } from 'vue';
import { useTell } from './tell.ts';

/** What a screen does one after the other: nothing new is begun while something is under way, and what fails is told. */
export function useActs(): { busy: Ref<boolean>; act: (work: () => Promise<void>, failed: string) => Promise<void> } {
  const tell = useTell();
  const busy = ref(false);
  return {
    busy,
    act: async (work, failed) => {
      if (busy.value) return;
      busy.value = true;
      try {
        await work();
      } catch (problem) {
        tell(failed, problem);
      } finally {
        busy.value = false;
      }
    },
  };
}
