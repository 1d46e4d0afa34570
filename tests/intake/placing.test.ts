import { afterAll, beforeAll, expect, it } from 'vitest';
import { placedFrom } from '../../src/core/placing/place.ts';
import { drawer, film, openDesk, page, type Desk } from './helpers.ts';

/**
 * Twelve tests in three environments, the environments beside each other, so that three attempts
 * overlap at any time; their 36 videos and 24 screenshots under names that say nothing.
 */
const titles = [
  'holds a seat',
  'shows the fare',
  'opens the pass',
  'adds a bicycle',
  'lists ports',
  'pays by card',
  'keeps the hold',
  'cancels a trip',
  'finds a sailing',
  'changes a name',
  'marks cancelled',
  'sorts by price',
];
const environments = [
  { browser: 'chromium', width: 1280, height: 800 },
  { browser: 'firefox', width: 1280, height: 800 },
  { browser: 'webkit', width: 1280, height: 800 },
];
let desk: Desk;
beforeAll(() => (desk = openDesk()));
afterAll(() => desk.close());

it('finds the attempts of 60 shuffled files with overlapping times, and is never sure of a wrong one', async () => {
  const draw = drawer(12);
  const day = Date.UTC(2026, 10, 23, 9);
  const truth = new Map<string, string>();
  const files: [string, { bytes: Buffer; at: number }][] = [];
  const suites: string[] = [];
  let picturesLeft = 24;
  for (const [e, environment] of environments.entries()) {
    let clock = day + draw(400);
    const cases: string[] = [];
    for (const [t, title] of titles.entries()) {
      const length = 1800 + draw(1600);
      const [from, until] = [clock, clock + length];
      clock = until + 40 + draw(120);
      const failed = (t + e) % 5 === 0;
      cases.push(
        `<testcase classname="booking" name="${title}" time="${(length / 1000).toFixed(3)}" timestamp="${new Date(from).toISOString()}">${failed ? '<failure message="expected 1 to be 2"/>' : ''}</testcase>`,
      );
      const key = `${title} ${environment.browser}`;
      // The recorder begins a little after the test and ends a little after it.
      const [videoFrom, videoUntil] = [from + 80 + draw(260), until + draw(250)];
      const moments = Array.from(
        { length: 5 },
        (_, i) => `${environment.browser} moment ${i} ${Math.round(draw(900))}`,
      );
      const shots = await Promise.all(
        moments.map(async (moment) => ({ bytes: await page(title, moment), ms: (videoUntil - videoFrom) / 5 })),
      );
      const name = `${Math.floor(draw(2 ** 32)).toString(16)}-${Math.floor(draw(2 ** 32)).toString(16)}`;
      files.push([`evidence/${name}.webm`, { bytes: film(shots), at: videoUntil }]);
      truth.set(`evidence/${name}.webm`, key);
      if (picturesLeft > 0 && (t * 3 + e) % 3 !== 1) {
        picturesLeft--;
        const which = 1 + Math.floor(draw(4));
        const picture = `evidence/${Math.floor(draw(2 ** 32)).toString(16)}.png`;
        files.push([
          picture,
          {
            bytes: await page(title, moments[which]!, 1280, 800),
            at: Math.round(videoFrom + ((which + 0.5) * (videoUntil - videoFrom)) / 5),
          },
        ]);
        truth.set(picture, key);
      }
    }
    suites.push(
      `<testsuite name="booking" hostname="ci"><properties><property name="browser" value="${environment.browser}"/><property name="viewport" value="${environment.width}x${environment.height}"/></properties>${cases.join('')}</testsuite>`,
    );
  }
  expect(truth.size).toBe(60);
  files.sort(() => draw(2) - 1);
  const result = await desk.take({
    'evidence/report.xml': `<testsuites>${suites.join('')}</testsuites>`,
    ...Object.fromEntries(files),
  });
  expect(result).toMatchObject({ attempts: 36, problems: [] });
  const attempts = new Map(
    desk.store.attempts.ofRun(result.runId!).map((one) => [one.id, `${one.test.title} ${one.environment.browser}`]),
  );
  let right = 0;
  const wrong: string[] = [];
  for (const file of desk.store.files.ofRun(result.runId!)) {
    const best = file.attemptId ?? file.candidates[0]?.attemptId;
    if (best && attempts.get(best) === truth.get(file.name)) {
      if (file.state === 'placed') right++;
    } else if (file.state === 'placed') wrong.push(`${file.name} ${file.score}`);
  }
  if (process.env.SEE)
    for (const f of desk.store.files.ofRun(result.runId!))
      if (f.state !== 'placed')
        console.log(
          f.kind,
          f.score.toFixed(3),
          truth.get(f.name),
          f.candidates
            .slice(0, 3)
            .map((c) => `${attempts.get(c.attemptId)} ${c.score.toFixed(3)} ${c.reasons.join('; ')}`),
        );
  console.log(
    `${right} of 60 placed and right, ${result.unmatched.length} wait, ${wrong.length} wrong above ${placedFrom}`,
  );
  expect(wrong).toEqual([]);
  expect(right).toBeGreaterThanOrEqual(57);
}, 400_000);
