import { writeFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { WebDriver } from '../demo/suite/webdriver.ts';
import { startDriver, type DriverProcess } from '../src/browser/driver-process.ts';
import { chromiumBy } from '../src/browser/engines.ts';
import { Owner } from '../src/browser/owner.ts';
import type { Attempt, PlaceView } from '../src/core/records.ts';
import { chromeArguments, eventually, json, ready, startServerProcess, type ServerProcess } from './helpers.ts';

/** One test in every engine of this machine, and a drill of it in all of them and on a remote endpoint. */

let owner: Owner;
let home: string;
let server: ServerProcess;
let site: FerrySite;
/** A remote endpoint that is killed on the way. */
let doomed: DriverProcess;

beforeAll(async () => {
  home = mkdtempSync(join(tmpdir(), 'iskel-places-'));
  owner = await Owner.start(home);
  const remote = (await startDriver(chromiumBy('chromedriver', ''), owner)) as DriverProcess;
  doomed = (await startDriver(chromiumBy('chromedriver', ''), owner)) as DriverProcess;
  site = await startFerrySite();
  const settings = join(home, 'settings.json');
  writeFileSync(
    settings,
    JSON.stringify({
      places: [
        {
          name: 'yard-2',
          address: remote.base,
          socket: true,
          sessions: 2,
          labels: { rack: 'north' },
          capabilities: { 'goog:chromeOptions': { args: chromeArguments } },
        },
        {
          name: 'yard-3',
          address: doomed.base,
          socket: true,
          capabilities: { 'goog:chromeOptions': { args: chromeArguments } },
        },
        { name: 'quay', address: 'http://127.0.0.1:4', authorization: 'Bearer made-up-token' },
      ],
    }),
  );
  server = await startServerProcess({ env: { ISKEL_SETTINGS: settings } });
}, 60_000);
afterAll(async () => {
  await server.stop();
  await site.close();
  await owner.close();
  rmSync(home, { recursive: true, force: true });
});

async function record(capabilities: Record<string, unknown>, title: string): Promise<string> {
  const driver = await WebDriver.open(`${server.address}/wd`, capabilities);
  await driver.implicit(4000);
  await driver.open(`${site.address}/sailings/e-1840`);
  expect(await (await driver.find('h1')).text()).toBeTruthy();
  await (await driver.find('#passenger')).type('Deniz');
  const seat = await driver.find('[data-seat="2A"]');
  await seat.click();
  expect(await seat.attribute('aria-pressed'), title).toBe('true');
  await driver.outcome('passed');
  await driver.quit();
  return driver.attempt;
}

const about = (title: string, place?: string): Record<string, unknown> => ({
  'iskel:attempt': { run: 'places', test: { suite: 'seats', title }, ...(place ? { place } : {}) },
});

describe('places', () => {
  it('are told with their health, what they cannot, and how to mend what is down', async () => {
    const places = await eventually(
      async () => (await json<{ places: PlaceView[] }>('GET', `${server.address}/api/health`)).body.places,
      (all) => all.every(({ remote, checkedAt }) => !remote || checkedAt !== undefined),
    );
    expect(places.map(({ name, ok, remote }) => [name, ok, remote])).toEqual([
      ['chromium', true, false],
      ['firefox', true, false],
      ['webkit', true, false],
      ['yard-2', true, true],
      ['yard-3', true, true],
      ['quay', false, true],
    ]);
    expect(places.find(({ name }) => name === 'quay')!.message).toMatch(
      /cannot be reached .*mend “address” of quay in the settings file/,
    );
    expect(places.find(({ name }) => name === 'webkit')!.cannot.join(' ')).toMatch(/only commands and pictures/);
    expect(JSON.stringify(places)).not.toContain('made-up-token');
  });

  it('one that is down, or that is not there, is refused before anything starts', async () => {
    for (const [place, words] of [
      ['quay', /quay: it cannot be reached/],
      ['pier', /there is no place “pier”; there are chromium, firefox, webkit, yard-2, yard-3, quay/],
    ] as const) {
      const { body } = await json<{ value: { error: string; message: string } }>(
        'POST',
        `${server.address}/wd/session`,
        {
          capabilities: { alwaysMatch: about('nowhere', place) },
        },
      );
      expect(body.value.error).toBe('session not created');
      expect(body.value.message).toMatch(words);
    }
  });
});

describe('the same test', () => {
  const recorded: Record<string, Attempt> = {};
  it.each([
    ['chromium', { browserName: 'chrome', 'goog:chromeOptions': { args: chromeArguments }, ...about('takes a seat') }],
    ['firefox', { browserName: 'firefox', ...about('takes a seat') }],
    ['webkit', { browserName: 'webkit', ...about('takes a seat') }],
    ['yard-2', about('takes a seat', 'yard-2')],
  ])(
    'is recorded in %s',
    async (place, capabilities) => {
      const id = await record(capabilities, place);
      await ready(server.address, id);
      recorded[place] = (await json<Attempt>('GET', `${server.address}/api/attempts/${id}`)).body;
      expect(recorded[place]).toMatchObject({ outcome: 'passed' });
    },
    60_000,
  );

  it('and each attempt says where: by its engine, and by the name of a remote place with its labels', () => {
    expect(Object.values(recorded).map(({ environment }) => [environment.browser, environment.place])).toEqual([
      ['chromium', undefined],
      ['firefox', undefined],
      ['webkit', undefined],
      ['chromium', 'yard-2'],
    ]);
    expect(recorded['yard-2']!.labels.labels).toMatchObject({ rack: 'north' });
  });

  it.each(['chromium', 'firefox', 'webkit', 'yard-2'])(
    'its drill has the same outcome in %s',
    async (engine) => {
      const { body: drill } = await json<{ id: string }>('POST', `${server.address}/api/drills`, {
        attemptId: recorded.chromium!.id,
      });
      const started = await json<{ id: string }>('POST', `${server.address}/api/series`, {
        drillId: drill.id,
        engine,
        trials: 2,
      });
      expect(started).toMatchObject({ status: 202 });
      const series = await eventually(
        async () =>
          (
            await json<{ state: string; done: number; problem?: string; trials: { outcome: string; id: string }[] }>(
              'GET',
              `${server.address}/api/series/${started.body.id}`,
            )
          ).body,
        ({ state, done }) => state === 'failed' || (state === 'done' && done === 2),
        90_000,
      );
      expect(series.trials.map(({ outcome }) => outcome)).toEqual(['passed', 'passed']);
    },
    120_000,
  );

  it('a series in a place that is down is refused in words', async () => {
    const { body: drill } = await json<{ id: string }>('POST', `${server.address}/api/drills`, {
      attemptId: recorded.chromium!.id,
    });
    const { status, body } = await json<{ error: { message: string } }>('POST', `${server.address}/api/series`, {
      drillId: drill.id,
      engine: 'quay',
      trials: 1,
    });
    expect(status).toBe(409);
    expect(body.error.message).toMatch(/cannot be reached/);
  });

  it('two remote endpoints share the trials; one is killed on the way, and all are played', async () => {
    const trials = process.env.ISKEL_HOSTILE ? 60 : 12;
    const { body: drill } = await json<{ id: string }>('POST', `${server.address}/api/drills`, {
      attemptId: recorded.chromium!.id,
    });
    const { body: started } = await json<{ id: string }>('POST', `${server.address}/api/series`, {
      drillId: drill.id,
      engine: 'yard-2,yard-3',
      trials,
      detail: 'light',
    });
    interface View {
      state: string;
      done: number;
      problem: string | null;
      trials: { outcome: string; place: string }[];
    }
    const view = async (): Promise<View> =>
      (await json<View>('GET', `${server.address}/api/series/${started.id}`)).body;
    // Each has played some before one goes.
    await eventually(
      view,
      (one) =>
        ['yard-2', 'yard-3'].every((place) => one.trials.some((trial) => trial.place === place)) && one.done >= 3,
      60_000,
    );
    await doomed.close();
    const ended = await eventually(view, ({ state }) => state !== 'waiting' && state !== 'running', 240_000);
    expect(ended.state).toBe('done');
    expect(ended.done).toBe(trials);
    expect(ended.trials.filter(({ outcome }) => outcome === 'passed')).toHaveLength(trials);
    expect(ended.problem).toMatch(/^yard-3 was lost in trial \d+: /);
  }, 300_000);

  it('and no session is left at the remote endpoint', async () => {
    const { body } = await json<{ places: PlaceView[] }>('GET', `${server.address}/api/health`);
    expect(body.places.find(({ name }) => name === 'yard-2')!.sessions.open).toBe(0);
  });
});
