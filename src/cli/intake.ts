import { openAsBlob, readdirSync, statSync } from 'node:fs';
import { background } from '../core/background.ts';
import { basename, join, relative } from 'node:path';
import type { IntakeResult } from '../core/records.ts';
import type { IntakeProgress } from '../server/ingest/delivered/tools.ts';
import { CliError, describeFile, type Home, type LocalFile } from './home.ts';

/** All files of the given paths; folders whole, under their own names. */
export function filesOf(paths: readonly string[]): LocalFile[] {
  return paths.flatMap((path) => {
    let stat;
    try {
      stat = statSync(path);
    } catch {
      throw new CliError(`there is no file or folder “${path}”`, 2);
    }
    if (!stat.isDirectory()) return [describeFile(path, basename(path))];
    const root = basename(join(process.cwd(), path));
    return readdirSync(path, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => {
        const full = join(entry.parentPath, entry.name);
        return describeFile(full, join(root, relative(path, full)));
      });
  });
}

export interface IntakeOptions {
  run?: string;
  label: Record<string, string>;
  zone?: string;
  secret: string[];
}

/** Sends files to the server's intake and tells how far it is. */
export async function takeIn(
  home: Home,
  paths: readonly string[],
  options: IntakeOptions,
  progress: (now: IntakeProgress) => void,
): Promise<IntakeResult> {
  const files = filesOf(paths);
  if (!files.length) throw new CliError('there is no file in what was given', 2);
  const form = new FormData();
  form.append('modified', JSON.stringify(Object.fromEntries(files.map(({ name, modifiedAt }) => [name, modifiedAt]))));
  if (options.run) form.append('run', options.run);
  if (options.zone) form.append('zone', options.zone);
  if (Object.keys(options.label).length) form.append('labels', JSON.stringify(options.label));
  if (options.secret.length) form.append('secrets', JSON.stringify(options.secret));
  for (const { path, name } of files) form.append('files', await openAsBlob(path), name);
  const watch = setInterval(() => {
    const told = home
      .get<{ intakes: IntakeProgress[] }>('/intake')
      .then(({ intakes }) => intakes[0] && progress(intakes[0]));
    background('asking how far a delivery is', told);
  }, 500);
  try {
    const answer = await fetch(`${home.address}/api/intake`, { method: 'POST', body: form, headers: home.headers });
    const told = (await answer.json()) as IntakeResult & { error?: { message: string } };
    if (!answer.ok) throw new CliError(told.error?.message ?? `the delivery failed with status ${answer.status}`);
    return told;
  } finally {
    clearInterval(watch);
  }
}
