import { createHash } from 'node:crypto';
import { createMasker, type Masker } from '../../core/evidence/masking.ts';
import { readPack, writePack, type Pack, type PackedAttempt } from '../../core/formats/pack.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import type { Store } from '../store/store.ts';
import type { AnalysisJobs } from '../jobs/analysis.ts';

/** One attempt as an evidence pack. */
export async function exportPack(store: Store, id: string): Promise<Uint8Array | undefined> {
  const attempt = store.attempts.get(id);
  const run = attempt && store.runs.get(attempt.runId);
  if (!attempt || !run) return undefined;
  const events = store.events.recorded(id);
  const blobs: Pack['blobs'] = new Map();
  const names = events.flatMap((event) =>
    event.lane === 'screen' || event.lane === 'page' ? (event.data.blob ?? []) : [],
  );
  for (const blob of names) {
    const known = store.blobs.find(blob);
    if (known && !blobs.has(blob)) blobs.set(blob, { bytes: await store.blobs.read(blob), mime: known.mime });
  }
  const { key: _key, ...environment } = attempt.environment;
  return writePack({
    attempt: {
      run: {
        name: run.name,
        startedAt: run.startedAt,
        ...(run.commit ? { commit: run.commit } : {}),
        ...(run.branch ? { branch: run.branch } : {}),
      },
      test: {
        suite: attempt.test.suite,
        title: attempt.test.title,
        ...(attempt.test.file ? { file: attempt.test.file } : {}),
      },
      number: attempt.number,
      outcome: attempt.outcome,
      environment,
      startedAt: attempt.startedAt,
      durationMs: attempt.durationMs,
      message: attempt.message,
      stack: attempt.stack,
      ...(attempt.interruptedBy ? { interruptedBy: attempt.interruptedBy } : {}),
      labels: attempt.labels as Record<string, unknown>,
    },
    events,
    blobs,
  });
}

/** Restores an attempt from a pack, ready to be analysed. The same pack twice is the same attempt once. */
export async function restorePack(
  store: Store,
  bytes: Uint8Array,
  masker: Masker = createMasker(),
  intakeId?: string,
): Promise<{ id: string; isNew: boolean }> {
  const { attempt, events, blobs } = readPack(bytes);
  const parts = [...blobs].map(([name, { bytes: content, mime }]) => ({
    name,
    mime,
    read: () => Buffer.from(content),
  }));
  return restore(store, { attempt, events: [events], blobs: parts }, masker, intakeId);
}

/** An attempt whose parts are read one after the other, so that none lies in memory longer than it is needed. */
export interface Parts {
  attempt: PackedAttempt;
  events: Iterable<EvidenceEvent[]>;
  blobs: Iterable<{ name: string; mime: string; read: () => Buffer }>;
}

/** Stores an attempt from its parts, ready to be analysed; the same once only. */
export async function restore(
  store: Store,
  { attempt, events, blobs }: Parts,
  masker: Masker,
  intakeId?: string,
): Promise<{ id: string; isNew: boolean }> {
  const id = `a-${createHash('sha256')
    .update(
      `${attempt.run.name}\n${attempt.startedAt}\n${attempt.test.suite}\n${attempt.test.title}\n${attempt.number ?? ''}`,
    )
    .digest('hex')
    .slice(0, 12)}`;
  if (store.attempts.get(id)) return { id, isNew: false };
  /** Markup comes masked from us, and maybe not from others: what is masked anew has another name. */
  const renamed = new Map<string, string>();
  for (const { name, mime, read } of blobs) {
    const content = read();
    if (createHash('sha256').update(content).digest('hex') !== name)
      throw new Error(`the pack's picture ${name.slice(0, 12)}… is not what its name says; the pack was changed`);
    const bytes = mime.startsWith('text/') ? Buffer.from(masker.markup(new TextDecoder().decode(content))) : content;
    renamed.set(name, await store.blobs.keep(bytes, mime));
  }
  store.together(() => {
    const runId = store.runs.named(masker.text(attempt.run.name), attempt.run.startedAt, masker.value(attempt.run));
    store.attempts.begin({ ...masker.value(attempt), runId, id, ...(intakeId ? { intakeId } : {}) });
    for (const part of events) {
      for (const event of part) {
        const blob = event.lane === 'page' ? renamed.get(event.data.blob ?? '') : undefined;
        if (blob && event.lane === 'page') event.data.blob = blob;
      }
      store.events.write(id, masker.value(part));
    }
    store.attempts.outcome(id, attempt.outcome, masker.text(attempt.message), masker.text(attempt.stack));
    store.attempts.end(id, attempt.durationMs, attempt.interruptedBy);
  });
  return { id, isNew: true };
}

/** Restores an attempt from a pack and has it analysed. */
export async function importPack(store: Store, analysis: AnalysisJobs, bytes: Uint8Array): Promise<string> {
  const { id, isNew } = await restorePack(store, bytes, store.rules.masker());
  if (isNew) analysis.settle(id);
  return id;
}
