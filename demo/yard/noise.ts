import { seeded } from '../../src/core/stats/seeded.ts';

/**
 * What happens on any visit of the yard and means nothing: an ornament that is not there, a harmless exception about it,
 * an outside counter that comes late or answers 503, late news at the foot of the page, a clock that is redrawn. It is
 * drawn from the visit's seed apart from everything else, and never from whether the visit hurts.
 */
export interface Noise {
  /** Number of an ornament that answers 404; absent when the page shows none. */
  ornament?: number;
  /** How long after the page's start a script about the ornament throws, ms. */
  throwsAfter?: number;
  counter?: { status: 204 | 503; afterMs: number };
  /** How late the news at the foot of the page come, ms. */
  newsAfter?: number;
  /** How often the clock at the foot of the page is redrawn, ms. */
  clockEvery?: number;
}

export function noiseOf(seed: number): Noise {
  const random = seeded(seed * 6011 + 17);
  const now = (share: number): boolean => random() < share;
  const between = (low: number, high: number): number => Math.round(low + random() * (high - low));
  return {
    ...(now(0.4) ? { ornament: between(1, 9) } : {}),
    ...(now(0.35) ? { throwsAfter: between(0, 400) } : {}),
    ...(now(0.6) ? { counter: { status: now(0.4) ? 503 : 204, afterMs: between(5, now(0.4) ? 1800 : 60) } } : {}),
    ...(now(0.5) ? { newsAfter: between(10, now(0.4) ? 900 : 80) } : {}),
    ...(now(0.5) ? { clockEvery: between(120, 1000) } : {}),
  };
}

/** The foot of a page with what this visit's noise does there. */
function footOf(noise: Noise, outside: string): string {
  const script = [
    noise.throwsAfter === undefined
      ? ''
      : `setTimeout(() => { document.getElementById('ferry-ornament-wheel').turn(); }, ${noise.throwsAfter});`,
    noise.counter
      ? `fetch('${outside}/counter?status=${noise.counter.status}&after=${noise.counter.afterMs}').catch(() => 0);`
      : '',
    noise.newsAfter === undefined
      ? ''
      : `fetch('/news?after=${noise.newsAfter}').then((r) => r.json()).then((d) => { document.getElementById('foot-news').textContent = d.text; });`,
    noise.clockEvery === undefined
      ? ''
      : `setInterval(() => { document.getElementById('foot-clock').textContent = new Date().toISOString().slice(11, 22); }, ${noise.clockEvery});`,
  ].join('');
  const ornament = noise.ornament ? `<img src="/ornament-${noise.ornament}.png" alt="" width="12" height="12">` : '';
  return `<footer><small id="foot-clock"></small> <small id="foot-news"></small>${ornament}</footer><script>${script}</script>`;
}

/** A page with its foot; a text that is no whole page stays as it is. */
export function withNoise(page: string, noise: Noise, outside: string): string {
  const end = page.lastIndexOf('</body>');
  return end < 0 ? page : page.slice(0, end) + footOf(noise, outside) + page.slice(end);
}
