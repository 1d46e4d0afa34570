import type { DeliveredFile } from '../../../core/records.ts';
import type { Store } from '../../store/store.ts';

export interface IntakeProgress {
  doing: string;
  done: number;
  of: number | null;
}

export interface IntakeTools {
  store: Store;
  /** Environment of child processes, with the mark they are ended by. */
  env: NodeJS.ProcessEnv;
  progress(now: IntakeProgress): void;
  /** Tells what became of a file. */
  became?(file: DeliveredFile): void;
}

export interface PlacingTools extends IntakeTools {
  id: string;
  runId: string;
  attachments: ReadonlyMap<string, string[]>;
  /** The report that told each attempt. */
  reportOf?: ReadonlyMap<string, string>;
  /** Attempts that this delivery brought. */
  fresh?: ReadonlySet<string>;
  /** Attempts whose starts a report only added up, set apart by what the files show: within how many ms. */
  spaced?: Map<string, number>;
  /** The files are kept already, and are placed anew. */
  again?: boolean;
  tell(doing: string, done: number, of: number | null): void;
  trouble(name: string, message: string): void;
}
