import { mkdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { isAbsolute, join } from 'node:path';
import { guarded } from '../../core/background.ts';
import type { Drill } from '../../core/drill/drill.ts';
import { filesTyped, pathsIn } from '../../core/drill/files-typed.ts';
import { fileName } from '../../core/evidence/file-path.ts';
import type { Store } from '../store/store.ts';

/** Most that is kept with one drill: files, and bytes of each. */
const most = { files: 10, bytes: 8 * 1024 ** 2 } as const;

/** Keeps the files that a drill types, where they lie on this machine: a test's own may be gone by the time it is played. */
export function keepFilesOf({ drillFiles }: Pick<Store, 'drillFiles'>, id: string, drill: Drill): void {
  for (const path of filesTyped(drill).slice(0, most.files))
    guarded('keeping a file with a drill', () => {
      const bytes = fileAt(path);
      if (bytes) drillFiles.keep(id, path, bytes);
    });
}

/** Nothing where there is no such file, or it is none that can be kept: a device never ends. */
function fileAt(path: string): Buffer | undefined {
  if (!isAbsolute(path)) return undefined;
  const found = statSync(path, { throwIfNoEntry: false });
  if (!found?.isFile() || found.size > most.bytes) return undefined;
  // What the system makes up as it is read has no size, and need not end.
  return found.size === 0 ? Buffer.alloc(0) : readFileSync(path);
}

const folderOf = (home: string): string => join(home, 'given');

/** Files that a killed server had laid out for its trials. */
export const sweepGiven = (home: string): void => rmSync(folderOf(home), { recursive: true, force: true });

/** Lays the files of a drill out where the browsers of a series find them, by the names the test gave them. */
export class GivenFiles {
  private readonly folder: string;
  private readonly laid = new Map<string, string | undefined>();

  constructor(
    private readonly store: Pick<Store, 'home' | 'drillFiles'>,
    series: string,
    private readonly drill: string,
  ) {
    this.folder = join(folderOf(store.home), series);
  }

  /** What is typed into a file field instead: the paths of the files that are kept. @returns nothing where none is */
  readonly instead = (typed: string): string | undefined => {
    const paths = pathsIn(typed);
    const laid = paths.map((path) => this.path(path));
    return laid.some((one) => one !== undefined) ? laid.map((one, i) => one ?? paths[i]!).join('\n') : undefined;
  };

  private path(path: string): string | undefined {
    if (!this.laid.has(path)) {
      const bytes = this.store.drillFiles.bytes(this.drill, path);
      this.laid.set(path, bytes && this.lay(fileName(path), bytes));
    }
    return this.laid.get(path);
  }

  private lay(name: string, bytes: Buffer): string {
    // Two of a name come from two folders.
    const folder = join(this.folder, String(this.laid.size));
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const path = join(folder, name);
    writeFileSync(path, bytes, { mode: 0o600 });
    return path;
  }

  close(): void {
    rmSync(this.folder, { recursive: true, force: true });
  }
}
