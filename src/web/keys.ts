import { onBeforeUnmount, onMounted, ref } from 'vue';

export interface KeyHint {
  keys: string;
  does: string;
}

/** The keys of the screen that is shown, for its foot and for `?`. */
export const keyHints = ref<KeyHint[]>([]);

/** Own keys of a screen. They rest while somebody types, and while a dialog is open. */
export function useKeys(hints: KeyHint[], handle: (event: KeyboardEvent) => boolean): void {
  const onKey = (event: KeyboardEvent): void => {
    const target = event.target as HTMLElement | null;
    // A ticked box is no field one types in.
    const typing = target?.closest?.(
      'input:not([type="checkbox"], [type="radio"]), textarea, select, [contenteditable], [role="dialog"], [role="listbox"]:not([data-keys="through"])',
    );
    if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
    if (handle(event)) event.preventDefault();
  };
  onMounted(() => {
    keyHints.value = hints;
    window.addEventListener('keydown', onKey);
  });
  onBeforeUnmount(() => {
    keyHints.value = [];
    window.removeEventListener('keydown', onKey);
  });
}
