import { classify, type SourceKind } from './classify.ts';
import type { Source } from './source.ts';
import { Budget, gunzip, limits, untar, unzip } from './unpack.ts';

export interface Gathered {
  source: Source;
  kind: SourceKind;
}

/** All files of a delivery, archives opened, each with what it is. What could not be opened is told. */
export async function gather(
  sources: readonly Source[],
  tell: (name: string, message: string) => void,
): Promise<Gathered[]> {
  const budget = new Budget();
  const out: Gathered[] = [];
  const open = async (source: Source, depth: number): Promise<void> => {
    const kind = classify(source);
    if (kind !== 'zip' && kind !== 'gzip' && kind !== 'tar') {
      out.push({ source, kind });
      return;
    }
    if (kind === 'zip' && depth === 0 && isPack(source)) {
      out.push({ source, kind });
      return;
    }
    if (depth >= limits.depth) {
      tell(source.name, `archives lie more than ${limits.depth} deep in each other; this one was not opened`);
      source.close();
      return;
    }
    try {
      if (kind === 'gzip') await open(await gunzip(source, budget), depth + 1);
      else {
        const { sources: inner, problems } = kind === 'zip' ? await unzip(source, budget) : await untar(source, budget);
        for (const problem of problems)
          tell(problem.name === source.name ? source.name : `${source.name}/${problem.name}`, problem.message);
        for (const one of inner) {
          if (isNoise(one.name)) one.close();
          else await open(one, depth + 1);
        }
      }
    } catch (error) {
      tell(source.name, (error as Error).message);
    }
    source.close();
  };
  try {
    for (const source of sources) {
      if (isNoise(source.name)) source.close();
      else await open(source, 0);
    }
  } finally {
    budget.release();
  }
  return out;
}

/** An evidence pack of ours begins with its own head. */
const isPack = (source: Source): boolean =>
  source.read(30, 9).toString('latin1') === 'pack.json' || source.name.endsWith('.iskel.zip');

/** What systems leave in folders by themselves. */
const isNoise = (name: string): boolean =>
  /(?:^|\/)(?:\.DS_Store|Thumbs\.db|__MACOSX\/.{0,500}|\.gitkeep|desktop\.ini)$/.test(name);
