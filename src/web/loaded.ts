import { ref, type Ref } from 'vue';
import { useChanges, type Change } from './live.ts';

/** What a screen shows: got as it opens, and again when something that concerns it changes; what failed can be tried again. */
export function useLoaded<T>(
  get: () => Promise<T>,
  concerns: (change: Change) => boolean,
  pauseMs?: number,
): { shown: Ref<T | undefined>; error: Ref<unknown>; load: () => Promise<void> } {
  const shown = ref<T>() as Ref<T | undefined>;
  const error = ref<unknown>();
  const load = async (): Promise<void> => {
    try {
      shown.value = await get();
      error.value = undefined;
    } catch (problem) {
      error.value = problem;
    }
  };
  void load();
  useChanges(concerns, () => void load(), pauseMs);
  return { shown, error, load };
}
