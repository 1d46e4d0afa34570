import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { readSettings, type Settings } from '../server/settings.ts';

/** Where the jobs are done: a running server, or one of our own for as long as the job takes. */
export interface Home {
  get<T>(path: string): Promise<T>;
  post<T>(path: string, body: object): Promise<T>;
  text(path: string): Promise<Uint8Array>;
  /** Address of the server, for what is streamed. */
  address: string;
  headers: Record<string, string>;
  close(): Promise<void>;
}

export class CliError extends Error {
  /** @param code of the process: 1 a job that failed, 2 a wrong call */
  constructor(
    message: string,
    readonly code = 1,
  ) {
    super(message);
  }
}

async function answers(address: string, headers: Record<string, string>): Promise<boolean> {
  return fetch(`${address}/api/health`, { headers, signal: AbortSignal.timeout(1500) }).then(
    (answer) => answer.ok || answer.status === 401,
    () => false,
  );
}

/** The server given or found on the usual address; else one of our own on the data folder, on a free port of loopback. */
export async function openHome(options: { server?: string; data?: string; token?: string }): Promise<Home> {
  const settings: Settings = readSettings({ ...process.env, ...(options.data ? { ISKEL_DATA: options.data } : {}) });
  const token = options.token ?? settings.token;
  const headers: Record<string, string> = token ? { authorization: `Bearer ${token}` } : {};
  const usual = `http://${settings.host}:${settings.port}`;
  const wanted = options.server ?? (options.data ? undefined : usual);
  if (wanted && (await answers(wanted, headers))) return homeAt(wanted, headers, () => Promise.resolve());
  if (options.server)
    throw new CliError(`no Iskel answers at ${options.server}; start it with “npm start”, or leave --server out`);
  // Most calls find a server: they need not wait for one to be loaded.
  const { startServer } = await import('../server/server.ts');
  const server = await startServer({ ...settings, port: 0, host: '127.0.0.1', token: undefined }).catch(
    (error: Error) => {
      throw new CliError(error.message);
    },
  );
  return homeAt(server.address, {}, () => server.close());
}

export function homeAt(address: string, headers: Record<string, string>, close: () => Promise<void>): Home {
  const ask = async (path: string, body?: object): Promise<Response> => {
    const answer = await fetch(
      `${address}/api${path}`,
      body
        ? {
            method: 'POST',
            headers: { ...headers, 'content-type': 'application/json' },
            body: JSON.stringify(body),
          }
        : { headers },
    );
    if (!answer.ok) {
      const told = (await answer.json().catch(() => undefined)) as { error?: { message: string } } | undefined;
      throw new CliError(told?.error?.message ?? `the call ${path} failed with status ${answer.status}`);
    }
    return answer;
  };
  return {
    address,
    headers,
    get: async <T>(path: string) => (await (await ask(path)).json()) as T,
    post: async <T>(path: string, body: object) => (await (await ask(path, body)).json()) as T,
    text: async (path) => new Uint8Array(await (await ask(path)).arrayBuffer()),
    close,
  };
}

/** A path as a file to send, with the name it has below the folder that was given. */
export interface LocalFile {
  path: string;
  name: string;
  size: number;
  modifiedAt: number;
}

export function describeFile(path: string, name: string): LocalFile {
  const { size, mtimeMs } = statSync(path);
  return { path, name, size, modifiedAt: mtimeMs };
}

export const version = (
  JSON.parse(readFileSync(join(import.meta.dirname, '../../package.json'), 'utf8')) as { version: string }
).version;
