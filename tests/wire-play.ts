import { elementKey } from '../src/browser/recording/commands.ts';
import { chromeArguments } from './helpers.ts';
import type { Call } from './wire-script.ts';

/** Plays a script of commands against a remote end, and gives its answers with what no two sessions share put out. */

const shadowKey = 'shadow-6066-11e4-a52e-4f735466cecf';

export interface Answer {
  status: number;
  type: string | null;
  cache: string | null;
  body: string;
}

export async function send(base: string, method: string, path: string, body?: unknown): Promise<Answer> {
  const text = method === 'POST' ? JSON.stringify(body ?? {}) : undefined;
  const answer = await fetch(base + path, {
    method,
    ...(text ? { body: text, headers: { 'content-type': 'application/json; charset=utf-8' } } : {}),
  });
  return {
    status: answer.status,
    type: answer.headers.get('content-type'),
    cache: answer.headers.get('cache-control'),
    body: await answer.text(),
  };
}

/** Replaces what no two sessions share: ids in the order in which they turn up, and addresses in native stacks. */
export class Names {
  private readonly known = new Map<string, string>();
  plain(text: string): string {
    return (
      text
        // What was left of a timeout when it was given up: hundredths of a second around 0, more on a busy machine.
        .replace(/renderer: -?0\.0\d+/g, 'renderer: 0.00')
        .replace(/"stacktrace":"[^"]*"/g, '"stacktrace":"…"')
        .replace(
          /f\.[0-9A-F]{32}\.d\.[0-9A-F]{32}\.e\.\d+|\b[0-9A-F]{32}\b|\b[0-9a-f]{32}\b|\b[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}\b/g,
          (id) => {
            const parts = /^f\.(\w+)\.d\.(\w+)\.e\.(\d+)$/.exec(id);
            return parts ? `${this.of(parts[1]!)}/${this.of(parts[2]!)}/${this.of(id)}` : this.of(id);
          },
        )
    );
  }
  private of(id: string): string {
    let name = this.known.get(id);
    if (!name) this.known.set(id, (name = `#${this.known.size + 1}`));
    return name;
  }
}

/** A printed page carries the second it was made in. */
function undated(body: string): string {
  const { value } = JSON.parse(body) as { value: unknown };
  if (typeof value !== 'string') return body;
  return Buffer.from(value, 'base64')
    .toString('latin1')
    .replace(/D:\d{14}/g, 'D:…');
}

export async function play(
  base: string,
  calls: readonly Call[],
  more: Record<string, unknown> = {},
  browser: Record<string, unknown> = { browserName: 'chrome', 'goog:chromeOptions': { args: chromeArguments } },
): Promise<(Answer & { call: string })[]> {
  const capabilities = { alwaysMatch: { ...browser, ...more } };
  const begun = JSON.parse((await send(base, 'POST', '/session', { capabilities })).body) as {
    value: { sessionId: string };
  };
  const session = begun.value.sessionId;
  const kept = new Map<string, unknown>();
  const fill = (text: string): string =>
    text
      .replace(/\$(\w+)/g, (whole, name: string) => (kept.has(name) ? String(kept.get(name)) : whole))
      .replace(/@(\w+)(?:\.(\w+))?/g, (whole, name: string, part?: string) => {
        const value = kept.get(name);
        return value === undefined ? whole : String(part ? (value as Record<string, unknown>)[part] : value);
      });
  const names = new Names();
  const answers: (Answer & { call: string })[] = [];
  for (const call of calls) {
    const body = call.body === undefined ? undefined : (JSON.parse(fill(JSON.stringify(call.body))) as unknown);
    const answer = await send(base, call.method, `/session/${session}${fill(call.path)}`, body);
    if (call.keep) {
      const { value } = JSON.parse(answer.body) as { value: Record<string, unknown> | string };
      kept.set(call.keep, typeof value === 'string' ? value : (value[elementKey] ?? value[shadowKey] ?? value));
    }
    answers.push({
      ...answer,
      body: names.plain(call.path === '/print' ? undated(answer.body) : answer.body),
      call: `${call.method} ${call.path} ${JSON.stringify(call.body ?? '')}`,
    });
  }
  const ended = await send(base, 'DELETE', `/session/${session}`);
  answers.push({ ...ended, call: 'DELETE' });
  const after = await send(base, 'GET', `/session/${session}/title`);
  answers.push({ ...after, body: names.plain(after.body), call: 'a command after the end' });
  return answers;
}
