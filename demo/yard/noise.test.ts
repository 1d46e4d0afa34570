import { describe, expect, it } from 'vitest';
import { mechanisms } from './mechanisms.ts';
import { noiseOf, withNoise } from './noise.ts';
import { startYard } from './site.ts';

describe('the noise of the yard', () => {
  it('is the same for the same seed, and each kind comes in some visits and not in others', () => {
    const all = Array.from({ length: 400 }, (_, seed) => noiseOf(seed));
    expect(noiseOf(12)).toEqual(noiseOf(12));
    for (const kind of ['ornament', 'throwsAfter', 'counter', 'newsAfter', 'clockEvery'] as const) {
      const share = all.filter((one) => one[kind] !== undefined).length / all.length;
      expect(share).toBeGreaterThan(0.2);
      expect(share).toBeLessThan(0.8);
    }
    expect(all.some(({ counter }) => counter?.status === 503)).toBe(true);
  });

  it('goes to the foot of a whole page and to nothing else', () => {
    const noise = { clockEvery: 500, newsAfter: 20 };
    expect(withNoise('{"fare":"EUR 12.40"}', noise, '')).toBe('{"fare":"EUR 12.40"}');
    const page = withNoise('<body><main>sailings</main></body>', noise, '');
    expect(page.indexOf('<footer>')).toBeGreaterThan(page.indexOf('</main>'));
  });

  it('does not tell whether a visit hurts, and its services answer as it says', async () => {
    const mechanism = mechanisms.find(({ id }) => id === 'consent-over-page')!;
    const yard = await startYard(mechanisms);
    try {
      const feet: string[] = [];
      for (const hurts of [true, false]) {
        yard.next(mechanism, 3, hurts);
        const text = await (await fetch(`${yard.address}/start`)).text();
        feet.push(text.slice(text.indexOf('<footer>')));
      }
      expect(feet[0]).toBe(feet[1]);
      expect(feet[0]).toContain('foot-clock');
      expect(await (await fetch(`${yard.address}/news?after=1`)).json()).toHaveProperty('text');
      expect((await fetch(`${yard.address}/ornament-3.png`)).status).toBe(404);
    } finally {
      await yard.close();
    }
  });
});
