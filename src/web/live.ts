import { onBeforeUnmount } from 'vue';

export interface Change {
  type:
    | 'run'
    | 'attempt'
    | 'evidence'
    | 'series'
    | 'mending'
    | 'again'
    | 'family'
    | 'drill'
    | 'intake'
    | 'delivery'
    | 'rules'
    | 'keeping';
  id: string;
  runId?: string;
  seriesId?: string | null;
}

let source: EventSource | undefined;
const listeners = new Set<(change: Change) => void>();

function open(): void {
  source ??= new EventSource('/api/stream');
  for (const type of [
    'run',
    'attempt',
    'evidence',
    'series',
    'mending',
    'again',
    'family',
    'drill',
    'intake',
    'delivery',
    'rules',
    'keeping',
  ]) {
    source.addEventListener(type, (event) => {
      const change = JSON.parse((event as MessageEvent<string>).data) as Change;
      for (const listener of listeners) listener(change);
    });
  }
}

/**
 * Calls back when something that concerns a screen changes, no more than once in `pauseMs`, for as
 * long as the screen is shown.
 */
export function useChanges(concerns: (change: Change) => boolean, react: () => void, pauseMs = 250): void {
  if (!source) open();
  let timer: ReturnType<typeof setTimeout> | undefined;
  const listener = (change: Change): void => {
    if (!concerns(change) || timer) return;
    timer = setTimeout(() => {
      timer = undefined;
      react();
    }, pauseMs);
  };
  listeners.add(listener);
  onBeforeUnmount(() => {
    listeners.delete(listener);
    clearTimeout(timer);
  });
}
