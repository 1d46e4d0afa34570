// Series in a real browser: the whole drill language on the demo's site, a trial that hangs, a text that changes.
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { json, startServerProcess, type ServerProcess } from './helpers.ts';

interface SeriesView {
  id: string;
  state: string;
  done: number;
  text: string | null;
  problem: string | null;
  trials: { id: string; outcome: string; state: string; sentence: string | null }[];
}

let server: ServerProcess;
let site: FerrySite;
beforeAll(async () => {
  site = await startFerrySite();
  server = await startServerProcess();
});
afterAll(async () => {
  await server?.stop();
  await site?.close();
});

const drilled = async (text: string): Promise<string> => {
  const { status, body } = await json<{ id: string; errors?: unknown }>('POST', `${server.address}/api/drills`, {
    text,
  });
  expect(body.errors).toBeUndefined();
  expect(status).toBe(201);
  return body.id;
};
const begin = async (drillId: string, trials: number): Promise<string> =>
  (await json<{ id: string }>('POST', `${server.address}/api/series`, { drillId, engine: 'chromium', trials })).body.id;
const view = async (id: string): Promise<SeriesView> =>
  (await json<SeriesView>('GET', `${server.address}/api/series/${id}`)).body;
async function ended(id: string): Promise<SeriesView> {
  for (;;) {
    const series = await view(id);
    const settled = series.trials.every(({ state }) => state === 'ready');
    if (!['waiting', 'running'].includes(series.state) && settled) return series;
    await new Promise((done) => setTimeout(done, 100));
  }
}

describe('a series in Chromium', () => {
  it('plays what the language says: words for elements, conditions, what is remembered and drawn, keys and pointer', async () => {
    const id = await drilled(`drill "all of it"
window 1280 x 800
seed 5
limit page load 30 s
group "opens a sailing"
open ${JSON.stringify(`${site.address}/sailings/e-1840`)}
wait until either css ".never" is there or shown "Seats" is gone or css "h1" is there
wait until all is quiet for 50 ms
wait until css "#passenger" is still
draw passenger = letters 6
find field = css "#passenger"
hover field
type passenger into field
check property "value" of field is passenger
remember typed = property "value" of field
check answer of script "return arguments[0] + arguments[1]" with typed, 3 is passenger + "3"
keys "Control+a, Backspace"
check property "value" of css "#passenger" is ""
click twice field
keys "“Ada”"
check property "value" of field contains "Ada"
remember box = place of field
click box.x + 5, box.y + 5
scroll by 0, 50
check count of css "[data-seat]" is at least 2
when css "#not-there" is there then press css "#not-there"
press css "[data-seat=\\"2A\\"]"
wait until attribute "aria-pressed" of css "[data-seat=\\"2A\\"]" is "true"
script "console.log('ready for', arguments[0])" with "Ada"
wait until console says "ready for"
script "fetch('/api/sailings/e-1840')"
wait until request "GET ${site.address}/api/sailings" is answered
new tab
check windows is "2"
open ${JSON.stringify(site.address)}
switch to window 1
check address contains "e-1840"
switch to newest window
close window
switch to window at "e-1840"
cookie "lang" is "tr"
check answer of script "return document.cookie" contains "lang=tr"
forget cookies
check answer of script "return document.cookie" does not contain "lang"
window 700 x 600
check answer of script "return outerWidth" is at most 710
script "setTimeout(() => alert('sold ' + 1), 20)"
wait until dialog matches "^sold [0-9]$"
accept dialog
check title does not match "^$"
screenshot
`);
    const series = await ended(await begin(id, 2));
    expect(series.trials.map(({ outcome, sentence }) => [outcome, sentence])).toEqual([
      ['passed', null],
      ['passed', null],
    ]);
  });

  it('gives a file field the file that was kept with the drill, also when the test’s own is gone', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'iskel-typed-'));
    const path = join(folder, 'passengers.csv');
    writeFileSync(path, 'Ada,2A');
    const page = 'data:text/html,<input type=file id=list><input id=name>';
    const id = await drilled(`open ${JSON.stringify(page)}
type ${JSON.stringify(path)} into css "#list"
check answer of script "return document.querySelector('#list').files[0].text()" is "Ada,2A"
check answer of script "return document.querySelector('#list').files[0].name" is "passengers.csv"
type ${JSON.stringify(path)} into css "#name"
check property "value" of css "#name" is ${JSON.stringify(path)}
`);
    rmSync(folder, { recursive: true });
    const { body } = await json<{ files: unknown }>('GET', `${server.address}/api/drills/${id}`);
    expect(body.files).toEqual([{ path, size: 6 }]);
    const series = await ended(await begin(id, 2));
    expect(series.trials.map(({ outcome, sentence }) => [outcome, sentence])).toEqual([
      ['passed', null],
      ['passed', null],
    ]);
    expect(existsSync(join(server.data, 'given', series.id))).toBe(false);
  });

  it('a trial that hangs ends soon after its series is stopped, and the next series is played', async () => {
    const hangs = await begin(await drilled('limit script 250 s\nscript "for (;;) ;"'), 3);
    while ((await view(hangs)).trials.length === 0) await new Promise((done) => setTimeout(done, 50));
    await new Promise((done) => setTimeout(done, 5000));
    const asked = performance.now();
    await json('DELETE', `${server.address}/api/series/${hangs}`);
    const series = await ended(hangs);
    expect(series.state).toBe('stopped');
    expect(performance.now() - asked).toBeLessThan(60_000);
    expect(series.trials.map(({ outcome }) => outcome)).toEqual(['interrupted']);
    const next = await ended(await begin(await drilled(`open ${JSON.stringify(site.address)}`), 1));
    expect(next.trials.map(({ outcome }) => outcome)).toEqual(['passed']);
  });

  it('a series keeps the text it played', async () => {
    const played = `open ${JSON.stringify(site.address)}\nread title`;
    const drill = await drilled(played);
    const id = await begin(drill, 1);
    await json('PUT', `${server.address}/api/drills/${drill}`, { text: 'open "http://127.0.0.1:9/"' });
    const series = await ended(id);
    expect(series.text).toBe(played);
    expect(series.trials.map(({ outcome }) => outcome)).toEqual(['passed']);
  });
});
