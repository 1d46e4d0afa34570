import { reactive, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { HistoryAsked } from './types.ts';

/** What of a history is asked for, as the address has it. */
export function useHistoryAsked(): HistoryAsked {
  const [route, router] = [useRoute(), useRouter()];
  const text = (name: string): string => String(route.query[name] ?? '');
  const asked = reactive<HistoryAsked>({
    days: Number(text('days')) > 0 ? Number(text('days')) : 90,
    per: text('per') === 'commit' ? 'commit' : 'day',
    branch: text('branch'),
    suite: text('suite'),
    environment: text('environment'),
  });
  watch(asked, () => void router.replace({ query: Object.fromEntries(parts(asked)) }));
  return asked;
}

const parts = ({ days, per, branch, suite, environment }: HistoryAsked): [string, string][] =>
  Object.entries({
    days: days === 90 ? '' : String(days),
    per: per === 'day' ? '' : per,
    branch,
    suite,
    environment,
  }).filter(([, value]) => value !== '');

/** The same as a query of the API. */
export const historyQuery = (asked: HistoryAsked): string => new URLSearchParams(parts(asked)).toString();
