import { readdirSync } from 'node:fs';
import { afterAll, beforeAll } from 'vitest';
import { startFerrySite, type FerrySite } from '../../demo/site/site.ts';
import { WebDriver } from '../../demo/suite/webdriver.ts';
import { chromeArguments, json, sleep, startServerProcess, type ServerProcess } from '../helpers.ts';

/** A ferry site and a server of its own for each file in which something goes wrong around a recording. */
export let site: FerrySite;
export let server: ServerProcess;

/** To be called once, at the top of the file. */
export function setTheScene(): void {
  beforeAll(async () => {
    site = await startFerrySite();
    server = await startServerProcess({ env: { ISKEL_IDLE_SECONDS: '60' } });
  }, 60_000);
  afterAll(async () => {
    await server.stop();
    await site.close();
  });
}

export const open = (title: string, at = server, more: object = {}): Promise<WebDriver> =>
  WebDriver.open(`${at.address}/wd`, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: chromeArguments },
    'iskel:attempt': { run: 'trouble', test: { suite: 'standing', title }, ...more },
  });
export const faults = async (at = server): Promise<number> =>
  (await json<{ faults: number }>('GET', `${at.address}/api/health`)).body.faults;
export const descriptors = (): number => readdirSync(`/proc/${server.child.pid!}/fd`).length;

/** Titles read for a while. @returns how many, and the longest that one took, ms */
export async function readFor(driver: WebDriver, ms: number): Promise<{ reads: number; longest: number }> {
  const end = performance.now() + ms;
  let [reads, longest] = [0, 0];
  while (performance.now() < end) {
    const from = performance.now();
    await driver.title();
    reads++;
    longest = Math.max(longest, performance.now() - from);
    await sleep(40);
  }
  return { reads, longest };
}

interface Event {
  kind: string;
  data: { command?: string; label?: string };
}
export const stepsOf = async (id: string, at = server): Promise<Event[]> =>
  (
    await json<{ events: Event[] }>('GET', `${at.address}/api/attempts/${id}/events?lane=step&limit=10000`)
  ).body.events.filter(({ kind }) => kind === 'command');
export const notesOf = async (id: string, at = server): Promise<string[]> =>
  (
    await json<{ events: Event[] }>('GET', `${at.address}/api/attempts/${id}/events?lane=note&limit=1000`)
  ).body.events.map(({ data }) => data.label ?? '');
