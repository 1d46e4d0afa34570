import { readFileSync, readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import { causeCodes, isCauseCode } from '../../src/core/causes/cause.ts';
import { mechanisms } from './mechanisms.ts';
import { startYard } from './site.ts';

/** What the measurements rest on: enough mechanisms, told apart, and none that gives itself away. */

const of = (cause: string) => mechanisms.filter((one) => one.cause === cause);

describe('the yard', () => {
  it('shows every cause by three mechanisms or more', () => {
    for (const cause of causeCodes) expect(of(cause).length).toBeGreaterThanOrEqual(3);
    expect(mechanisms.every(({ cause }) => isCauseCode(cause))).toBe(true);
  });

  it('keeps one or more of each cause for measuring, and others for making rules', () => {
    for (const cause of causeCodes) {
      expect(of(cause).some(({ held }) => held)).toBe(true);
      expect(of(cause).filter(({ held }) => !held).length).toBeGreaterThanOrEqual(2);
    }
    expect(mechanisms.filter(({ held }) => held).length).toBeGreaterThanOrEqual(25);
  });

  it('has a name, a title, a suite and a sentence of its own for each', () => {
    for (const key of ['id', 'about'] as const) {
      const all = mechanisms.map((one) => one[key]);
      expect(all.filter((one, i) => all.indexOf(one) !== i)).toEqual([]);
    }
    const titles = mechanisms.map(({ suite, title }) => `${suite} ${title}`);
    expect(new Set(titles).size).toBe(titles.length);
    for (const { about, title } of mechanisms) {
      expect(about).toMatch(/^[A-Z][^]+\.$/);
      expect(title).not.toMatch(/flak|fault|race|early|stale/i);
    }
  });

  it('does not answer two mechanisms by one address', () => {
    const routes = mechanisms.flatMap(({ id, site }) => Object.keys(site ?? {}).map((route) => [route, id] as const));
    const taken = new Map<string, string>();
    for (const [route, id] of routes) {
      expect(`${route} ${taken.get(route) ?? id}`).toBe(`${route} ${id}`);
      taken.set(route, id);
    }
  });

  it('is a file a cause, and every file is in the list', () => {
    const files = readdirSync(fileURLToPath(new URL('./faults/', import.meta.url))).map((name) =>
      name.replace('.ts', ''),
    );
    expect(files.filter(isCauseCode).sort()).toEqual([...new Set(mechanisms.map(({ cause }) => cause))].sort());
    for (const file of files) {
      const text = readFileSync(new URL(`./faults/${file}.ts`, import.meta.url), 'utf8');
      for (const [, cause] of text.matchAll(/cause: '([^']+)'/g)) expect(cause).toBe(file);
    }
  });
});

describe('its pages', () => {
  it('never name the cause, the mechanism, or that anything is wrong, hurt or not', async () => {
    const yard = await startYard(mechanisms);
    try {
      for (const mechanism of mechanisms) {
        const pages = Object.keys(mechanism.site ?? {}).filter((route) => route.startsWith('GET '));
        for (const hurts of [false, true]) {
          yard.next(mechanism, 7, hurts);
          if (pages.length === 0) continue;
          const path = pages[0]!.slice(4).replace(/:\w+/g, '12');
          const answer = await fetch(yard.address + path, { redirect: 'manual', signal: AbortSignal.timeout(9000) });
          const text = (await answer.text()).toLowerCase();
          expect(text).not.toContain(mechanism.id);
          expect(text).not.toContain(mechanism.cause);
          expect(text).not.toMatch(/\bhurts?\b|mechanism|iskel|flaky/);
        }
      }
    } finally {
      await yard.close();
    }
  }, 120_000);
});
