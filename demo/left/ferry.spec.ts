// The ferry suite as a team without Iskel would run it; started by record.ts, not by npm test.
import { appendFileSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, it } from 'vitest';
import { ferryTests } from '../suite/tests.ts';
import { WebDriver } from '../suite/webdriver.ts';
import { Camera } from './camera.ts';

const { FERRY_REMOTE: remote = '', FERRY_SITE: site = '', FERRY_SIZE: size = '', FERRY_OUT: out = '' } = process.env;
const log = (level: string, text: string): void =>
  appendFileSync(
    join(out, '..', 'runner-log.txt'),
    `${new Date().toISOString().replace('T', ' ').replace('Z', '')} ${level} [ferry-suite] ${text}\n`,
  );

interface Timing {
  name: string;
  initiatorType: string;
  startTime: number;
  duration: number;
  responseStart: number;
  transferSize: number;
  responseStatus?: number;
}

/** What the page knows of its own requests, written as an HTTP archive beside those of the tests before. */
async function keepRequests(driver: WebDriver): Promise<void> {
  const script =
    'return { origin: performance.timeOrigin, entries: [...performance.getEntriesByType("navigation"), ...performance.getEntriesByType("resource")].map((e) => e.toJSON()) }';
  const { origin, entries } = await driver.send<{ origin: number; entries: Timing[] }>('POST', '/execute/sync', {
    script,
    args: [],
  });
  const path = join(out, 'requests.har');
  const har = (
    existsSync(path)
      ? JSON.parse(readFileSync(path, 'utf8'))
      : { log: { version: '1.2', creator: { name: 'ferry-suite', version: '1' }, entries: [] } }
  ) as { log: { entries: unknown[] } };
  for (const one of entries)
    har.log.entries.push({
      startedDateTime: new Date(origin + one.startTime).toISOString(),
      time: one.duration,
      request: {
        method: 'GET',
        url: one.name,
        httpVersion: 'HTTP/1.1',
        headers: [],
        cookies: [],
        queryString: [],
        headersSize: -1,
        bodySize: 0,
      },
      response: {
        status: one.responseStatus ?? 200,
        statusText: '',
        httpVersion: 'HTTP/1.1',
        headers: [],
        cookies: [],
        content: { size: one.transferSize, mimeType: one.initiatorType === 'navigation' ? 'text/html' : '' },
        redirectURL: '',
        headersSize: -1,
        bodySize: one.transferSize,
      },
      cache: {},
      timings: { send: 0, wait: Math.max(0, one.responseStart - one.startTime), receive: 0 },
      _resourceType: one.initiatorType === 'navigation' ? 'document' : one.initiatorType,
    });
  writeFileSync(path, JSON.stringify(har));
}

for (const suite of [...new Set(ferryTests.map((test) => test.suite))]) {
  describe(suite, () => {
    for (const test of ferryTests.filter((one) => one.suite === suite)) {
      it(
        test.title,
        async () => {
          log('INFO', `begins: ${test.title} (${size})`);
          const driver = await WebDriver.open(remote, {
            browserName: 'chrome',
            'goog:chromeOptions': {
              args: [
                `--window-size=${size}`,
                '--headless=new',
                '--no-sandbox',
                '--disable-gpu',
                '--disable-quic',
                '--no-first-run',
                '--disable-background-networking',
                '--disable-component-update',
                '--disable-sync',
              ],
            },
          });
          const camera = new Camera(driver);
          const shot = (name: string): Promise<void> =>
            camera.still(join(out, 'shots', `${test.title.replaceAll(/[^a-z]+/gi, '-')}-${name}.png`));
          let checks = 0;
          try {
            await test.run({
              driver,
              site,
              expect: async (label, actual, expected) => {
                log(
                  actual === expected ? 'INFO' : 'ERROR',
                  `${label}: ${JSON.stringify(actual)}, expected ${JSON.stringify(expected)}`,
                );
                if (++checks === 1) await shot('first-check');
                if (actual !== expected)
                  throw new Error(`${label}: expected ${JSON.stringify(expected)} but got ${JSON.stringify(actual)}`);
              },
            });
          } catch (error) {
            log('ERROR', `fails: ${test.title}\n    ${(error as Error).message}\n    at ${test.file}`);
            await shot('failed').catch(() => undefined);
            throw error;
          } finally {
            await keepRequests(driver).catch(() => undefined);
            await camera.end(join(out, 'videos'));
            await driver.quit();
            log('INFO', `ends: ${test.title}`);
          }
        },
        60_000,
      );
    }
  });
}
