import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import type { Clue } from '../../core/clues/clue.ts';
import { quietCodes } from '../../core/clues/register.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { locatorKey } from '../../core/evidence/locator.ts';
import { elasticScale, spreadScale } from '../../core/scaffold/elastic.ts';
import { atLevel, marksOf, polesOf } from '../../core/scaffold/poles.ts';
import { api } from '../api.ts';
import type { AttemptView, Suspect } from '../types.ts';

/** What the bench shows: one attempt, its evidence, the level, the chosen clue. */
export const useBench = defineStore('bench', () => {
  const attempt = ref<AttemptView>();
  const events = shallowRef<EvidenceEvent[]>([]);
  const clues = ref<Clue[]>([]);
  const suspects = ref<Suspect[]>([]);
  const level = ref(0);
  const clue = ref<number | null>(null);
  const folded = ref(true);
  /** Height in sight, pixels: a short attempt is spread to fill it. */
  const room = ref(0);

  async function load(id: string): Promise<void> {
    const [one, found, suspected] = await Promise.all([
      api<AttemptView>('GET', `/attempts/${id}`),
      api<{ clues: Clue[] }>('GET', `/attempts/${id}/clues`),
      api<{ suspects: Suspect[] }>('GET', `/attempts/${id}/suspects`),
    ]);
    const all: EvidenceEvent[] = [];
    let after: string | null = '';
    while (after !== null) {
      const page: { events: EvidenceEvent[]; after: string | null } = await api(
        'GET',
        `/attempts/${id}/events?limit=5000${after ? `&after=${encodeURIComponent(after)}` : ''}`,
      );
      all.push(...page.events);
      after = page.after;
    }
    attempt.value = one;
    clues.value = found.clues;
    suspects.value = suspected.suspects;
    events.value = all;
  }

  const byId = computed(() => new Map(events.value.map((event) => [event.id, event])));
  const failingKey = computed(() =>
    attempt.value?.failure?.locator ? locatorKey(attempt.value.failure.locator) : undefined,
  );
  const poles = computed(() => polesOf(events.value, failingKey.value));
  const scale = computed(() =>
    folded.value
      ? spreadScale(marksOf(poles.value), poles.value.until, room.value)
      : elasticScale(marksOf(poles.value), poles.value.until, { foldFromMs: Infinity, longest: 20_000 }),
  );
  /** Clues with a pennant: those that speak for something. */
  const loud = computed(() => clues.value.filter((one) => !quietCodes.has(one.code)));
  const chosen = computed(() => (clue.value === null ? undefined : loud.value[clue.value]));
  const evidence = computed(() => new Set(chosen.value?.evidence ?? []));
  const now = computed(() => atLevel(poles.value, level.value));
  const failureAt = computed(() => attempt.value?.failure?.at ?? poles.value.planks.at(-1)?.at ?? 0);

  /** Sets the level to the step `by` planks further on or back. */
  function step(by: 1 | -1): void {
    const planks = poles.value.planks;
    const next =
      by > 0
        ? planks.find((plank) => plank.at > level.value + 0.001)
        : planks.findLast((plank) => plank.at < level.value - 0.001);
    if (next) level.value = next.at;
  }

  /** Moves by the finest recorded thing: a picture, a poll, a change of a lifeline. */
  function fine(by: 1 | -1): void {
    const p = poles.value;
    const times = [...p.screens, ...p.polls]
      .map((event) => event.at)
      .concat(p.lifelines.flatMap((line) => line.segments.map((s) => s.from)));
    const next =
      by > 0
        ? Math.min(...times.filter((at) => at > level.value + 0.001))
        : Math.max(...times.filter((at) => at < level.value - 0.001));
    if (Number.isFinite(next)) level.value = next;
  }

  function choose(index: number | null): void {
    clue.value = index === null || !loud.value[index] ? null : index;
    if (chosen.value) level.value = chosen.value.at;
  }

  function nextClue(by: 1 | -1): void {
    if (loud.value.length === 0) return;
    const from = clue.value ?? (by > 0 ? -1 : 0);
    choose((from + by + loud.value.length) % loud.value.length);
  }

  return {
    room,
    attempt,
    events,
    byId,
    clues,
    suspects,
    level,
    clue,
    folded,
    poles,
    scale,
    loud,
    chosen,
    evidence,
    now,
    failureAt,
    failingKey,
    load,
    step,
    fine,
    choose,
    nextClue,
  };
});
