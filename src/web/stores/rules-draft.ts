import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import { policyNames } from '../../core/rules/against.ts';
import { whatChanged } from '../../core/rules/changed.ts';
import type { RulesVersion, StandingRules } from '../../core/rules/standing-rules.ts';
import { api, ApiError } from '../api.ts';
import type { RulesPreview } from '../types.ts';

/** How long nothing must have been typed before rules are tried on the last runs, ms. */
const tryAfterMs = 350;
const nameKey = 'iskel-by';

type Held = StandingRules & { version: RulesVersion | null };

const copied = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;
/** Empty lines of a list that is being typed are none of its entries. */
const tidied = (rules: StandingRules): StandingRules => {
  const lines = (list: string[]): string[] => list.map((one) => one.trim()).filter(Boolean);
  const out = copied(rules);
  out.masks = lines(out.masks);
  out.hosts = { own: lines(out.hosts.own), outside: lines(out.hosts.outside) };
  out.frames = { own: lines(out.frames.own), library: lines(out.frames.library) };
  for (const name of policyNames) out[name].only = lines(out[name].only);
  return out;
};

/** Standing rules as they are being written: what is not set yet stays while one looks at other screens. */
export const useRulesDraft = defineStore('rules-draft', () => {
  const held = ref<Held>();
  const draft = ref<StandingRules>();
  const versions = ref<RulesVersion[]>([]);
  const preview = ref<RulesPreview>();
  const trying = ref(false);
  /** Why the rules as they are written cannot be set. */
  const problem = ref('');
  const by = ref(localStorage.getItem(nameKey) ?? '');
  watch(by, (name) => localStorage.setItem(nameKey, name));

  const changes = computed(() => (held.value && draft.value ? whatChanged(held.value, tidied(draft.value)) : []));

  function took(rules: Held): void {
    const { version: _, ...plain } = rules;
    held.value = rules;
    draft.value = copied(plain);
  }

  /** Reads what holds; what is being written is kept. */
  async function load(): Promise<void> {
    const writing = changes.value.length > 0;
    const [rules, told] = await Promise.all([
      api<Held>('GET', '/rules'),
      api<{ versions: RulesVersion[] }>('GET', '/rules/versions'),
    ]);
    versions.value = told.versions;
    if (writing) held.value = rules;
    else took(rules);
    await attempt();
  }

  let timer: ReturnType<typeof setTimeout> | undefined;
  let asked = 0;
  async function attempt(): Promise<void> {
    if (!draft.value) return;
    const number = ++asked;
    trying.value = true;
    try {
      const told = await api<RulesPreview>('POST', '/rules/preview', tidied(draft.value));
      if (number !== asked) return;
      preview.value = told;
      problem.value = '';
    } catch (error) {
      if (number !== asked) return;
      if (!(error instanceof ApiError) || error.status !== 400) throw error;
      problem.value = error.message;
    } finally {
      if (number === asked) trying.value = false;
    }
  }
  watch(
    draft,
    () => {
      clearTimeout(timer);
      timer = setTimeout(() => void attempt().catch((error: Error) => (problem.value = error.message)), tryAfterMs);
    },
    { deep: true },
  );

  async function set(): Promise<void> {
    took(await api<Held>('PUT', '/rules', { ...tidied(draft.value!), by: by.value.trim() }));
    await load();
  }
  async function undo(to?: number): Promise<void> {
    took(await api<Held>('POST', '/rules/undo', { by: by.value.trim(), ...(to === undefined ? {} : { to }) }));
    await load();
  }
  function discard(): void {
    if (held.value) took(held.value);
  }
  return { held, draft, versions, preview, trying, problem, by, changes, load, set, undo, discard };
});
