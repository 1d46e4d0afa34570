// Attempts at sites that others wrote, each with the cause its case is labelled with: recorded once, then analysed as often as needed.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { isCauseCode, type CauseCode } from '../../src/core/causes/cause.ts';
import type { Outcome } from '../../src/core/evidence/attempt.ts';
import { startServerProcess } from '../../tests/helpers.ts';

/** What the recording program of the sites tells of an attempt, as far as it is used here. */
interface Told {
  case: string;
  cause: string;
  attemptId: string | null;
  status: string;
  planned: boolean | null;
  falsePass: boolean;
  onLabel: boolean;
  message?: string;
}

export interface Labelled {
  site: string;
  caseId: string;
  cause: CauseCode;
  id: string;
  outcome: Outcome;
  /** It failed, or passed falsely, by the mechanism of its case. */
  hurt: boolean;
  /** It passed, and rightly. */
  honest: boolean;
  message: string;
}

export interface RecordedSite {
  name: string;
  /** The data folder its attempts lie in. */
  data: string;
  attempts: Labelled[];
}

export interface Recording {
  /** The folder that holds the sites, each in a folder of its own, beside `kit/run.mjs`. */
  sites: string;
  /** Where recordings are kept. */
  into: string;
  seed: number;
  attempts: number;
  /** Passing attempts in earlier runs, a case. */
  earlier: number;
}

export const siteNames = (sites: string): string[] =>
  readdirSync(sites, { withFileTypes: true })
    .filter((one) => one.isDirectory() && existsSync(join(sites, one.name, 'cases.mjs')))
    .map(({ name }) => name)
    .sort();

/** Where a site is recorded: a range of its own each, so that two can be at once. Its outside services are on the next. */
export const recordedPort = (sites: string, name: string): number => 21120 + 100 * siteNames(sites).indexOf(name);

/** What a command line says of which sites are meant. */
export interface SitesAsked {
  sites: string;
  into: string;
  seed: string;
  attempts: string;
  /** Passing attempts in earlier runs, a case. */
  earlier?: string;
  /** Names with commas between; all without. */
  only?: string | undefined;
}

/** The attempts of each site that is asked for, in turn. */
export async function* recordedSites({ only, ...asked }: SitesAsked): AsyncGenerator<RecordedSite> {
  for (const name of siteNames(asked.sites))
    if (!only || only.split(',').includes(name))
      yield await recordedSite(name, {
        sites: asked.sites,
        into: asked.into,
        seed: Number(asked.seed),
        attempts: Number(asked.attempts),
        earlier: Number(asked.earlier ?? 0),
      });
}

/** The attempts of one site; recorded first, through a server of its own, where that was not done yet. */
async function recordedSite(name: string, how: Recording): Promise<RecordedSite> {
  const folder = join(how.into, `${name}-${how.seed}${how.earlier ? `-after-${how.earlier}` : ''}`);
  const data = join(folder, 'data');
  const result = join(folder, 'result.json');
  if (!existsSync(result)) {
    mkdirSync(data, { recursive: true });
    const server = await startServerProcess({ data, env: { ISKEL_LAUNCH: 'any' } });
    try {
      const options = {
        site: join(how.sites, name),
        base: `${server.address}/wd`,
        api: `${server.address}/api`,
        attempts: how.attempts,
        seed: how.seed,
        port: recordedPort(how.sites, name),
        out: resolve(result),
        ...(how.earlier ? { earlier: how.earlier } : {}),
      };
      const words = Object.entries(options).flatMap(([key, value]) => [`--${key}`, String(value)]);
      await new Promise<void>((done, fail) => {
        const child = spawn(process.execPath, [join(how.sites, 'kit', 'run.mjs'), ...words], { stdio: 'inherit' });
        child.once('error', fail);
        child.once('exit', (code) => (code === 0 ? done() : fail(new Error(`recording ${name} ended with ${code}`))));
      });
    } finally {
      await server.stop();
    }
  }
  const { attempts } = JSON.parse(readFileSync(result, 'utf8')) as { attempts: Told[] };
  return {
    name,
    data,
    attempts: attempts.flatMap((one) =>
      one.attemptId && isCauseCode(one.cause) && (one.status === 'failed' || one.status === 'passed')
        ? [
            {
              site: name,
              caseId: one.case,
              cause: one.cause,
              id: one.attemptId,
              outcome: one.status,
              hurt: one.onLabel,
              honest: one.status === 'passed' && !one.falsePass,
              message: one.message ?? '',
            } as const,
          ]
        : [],
    ),
  };
}
