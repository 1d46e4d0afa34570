import type { Masker } from '../../core/evidence/masking.ts';
import type { FamilyHistoryView, HistoryOrder, TestHistoryView, WholeHistory } from '../../core/history/told.ts';
import type { PageReadiness } from '../../core/readiness/readiness.ts';
import type { HandOverOrder } from '../exports/hand-over.ts';
import type { ReadFile } from '../ingest/delivered/read-loose.ts';
import type { StandingRules } from '../../core/rules/standing-rules.ts';
import type { OutlookAsked } from '../store/outlooks.ts';
import type { WholePreview } from '../../core/rules/told.ts';
import { AskedThread } from './thread.ts';

/** Forms in which an attempt, or a run with all of its attempts, is handed out. */
export type Form = 'pack' | 'har' | 'console' | 'steps';
export type RunForm = 'junit' | 'table' | 'run-console';

/** What the thread is asked. */
export type DeskQuestion =
  | { about: 'file'; name: string; bytes: Uint8Array; day: number; secrets: readonly string[] }
  | { about: Form | RunForm; id: string; version: string }
  | { about: 'hand-over'; id: string; version: string; order: HandOverOrder }
  | { about: 'rules'; rules: StandingRules }
  | { about: 'readiness'; attempt?: string }
  | { about: 'outlook'; asked: OutlookAsked }
  | { about: 'history'; test?: string; family?: string; order: HistoryOrder };

/** Reads files and writes whole attempts off the server's own thread: either may take a second, or a minute. */
export class EvidenceDesk {
  private readonly thread: AskedThread<DeskQuestion, unknown>;

  /** @param env with the mark by which processes of the thread are ended with their server */
  constructor(home: string, env: NodeJS.ProcessEnv) {
    this.thread = new AskedThread(new URL('./evidence-desk-thread.ts', import.meta.url), { home, env: { ...env } });
  }

  /** Reads a file that a reporter sent. @throws Error in words when it is of no kind that is read */
  async read(name: string, bytes: Buffer, day: number, masker: Masker): Promise<ReadFile> {
    // A buffer that shares its memory with others is copied; one that has its own is handed over.
    const own = bytes.byteLength === bytes.buffer.byteLength ? bytes : new Uint8Array(bytes);
    const question: DeskQuestion = { about: 'file', name, bytes: own, day, secrets: masker.secrets };
    const told = (await this.thread.ask(question, [own.buffer as ArrayBuffer])) as ReadFile | { refused: string };
    if ('refused' in told) throw new Error(told.refused);
    const { buffer, byteOffset, byteLength } = told.bytes;
    return { ...told, bytes: Buffer.from(buffer, byteOffset, byteLength) };
  }

  /** An attempt or a run in one of its forms; nothing when there is no such one. */
  write(form: Form | RunForm, id: string, version: string): Promise<Uint8Array | undefined> {
    return this.thread.ask({ about: form, id, version }) as Promise<Uint8Array | undefined>;
  }

  /** An attempt handed over, as a text; nothing when there is no such one. */
  handOver(id: string, version: string, order: HandOverOrder): Promise<string | undefined> {
    return this.thread.ask({ about: 'hand-over', id, version, order }) as Promise<string | undefined>;
  }

  /** What rules would have done to the last runs. */
  preview(rules: StandingRules): Promise<WholePreview> {
    return this.thread.ask({ about: 'rules', rules }) as Promise<WholePreview>;
  }

  /** Every risk of the listed tests as CSV: of many tests it is long. */
  outlookCsv(asked: OutlookAsked): Promise<string> {
    return this.thread.ask({ about: 'outlook', asked }) as Promise<string>;
  }

  /** When the pages of the application are ready; of one attempt, the page that it ended at. */
  readiness(attempt?: string): Promise<PageReadiness[]> {
    const question: DeskQuestion = { about: 'readiness', ...(attempt === undefined ? {} : { attempt }) };
    return this.thread.ask(question) as Promise<PageReadiness[]>;
  }

  history(order: HistoryOrder): Promise<WholeHistory> {
    return this.thread.ask({ about: 'history', order }) as Promise<WholeHistory>;
  }

  /** Nothing when there is no such test. */
  historyOfTest(test: string, order: HistoryOrder): Promise<TestHistoryView | undefined> {
    return this.thread.ask({ about: 'history', test, order }) as Promise<TestHistoryView | undefined>;
  }

  /** Nothing when there is no such family. */
  historyOfFamily(family: string, order: HistoryOrder): Promise<FamilyHistoryView | undefined> {
    return this.thread.ask({ about: 'history', family, order }) as Promise<FamilyHistoryView | undefined>;
  }

  close(): Promise<void> {
    return this.thread.close();
  }
}
