import { createHmac, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { statfs } from 'node:fs/promises';
import { join } from 'node:path';
import { asError, background } from '../../core/background.ts';
import type { DeliveredFile, DeliveryView, FileFate } from '../../core/records.ts';
import type { Changes } from '../changes.ts';
import type { SpooledFile } from '../ingest/delivered/intake-thread.ts';
import type { IntakeFields } from '../ingest/delivered/report-attempts.ts';
import { SealedWriter, sealKey, type Seal } from '../ingest/delivered/sealed.ts';
import { cleanName } from '../ingest/delivered/source.ts';
import type { KeptDelivery } from '../store/deliveries.ts';
import { patiently } from '../store/patience.ts';
import type { Store } from '../store/store.ts';
import { DeliveryTrouble, troubleOf, unless } from './delivery-body.ts';
import type { IntakeJobs } from './intakes.ts';

export interface ToSend {
  name: string;
  size: number;
  modifiedAt?: number;
}

/** A delivery as its sender announces it. The same again, under the same key, goes on where it was. */
export interface Announced {
  /** Only its sender has it. */
  key: Buffer;
  files: ToSend[];
  fields: IntakeFields;
}

interface Open {
  id: string;
  seal: Seal;
  files: readonly (SpooledFile & { have: number })[];
  names: ReadonlyMap<string, number>;
  fates: Map<string, DeliveredFile>;
  fields: IntakeFields;
  writer: Promise<SealedWriter> | undefined;
  /** Files that are on their way, and what breaks that off. */
  coming: Map<number, { stop: AbortController; ended: Promise<unknown> }>;
  view: DeliveryView;
  intake?: string;
  toldAt: number;
}

const day = 86_400_000;
/** One nobody went on with is forgotten after so long; what came of one is told for a while longer. */
const forgottenAfter = { receiving: 3 * day, ended: 7 * day };
/** So much may have to be sent again after a power cut, bytes. */
const surely = 32 * 1024 ** 2;
const mostOpen = 60;

/** Deliveries that are sent file by file, and go on where they were when their sender comes back. */
export class DeliveryJobs {
  private readonly open = new Map<string, Open>();
  private readonly folder: string;
  private closed = false;

  constructor(
    private readonly store: Store,
    private readonly intakes: IntakeJobs,
    private readonly changes: Changes,
  ) {
    this.folder = join(store.home, 'deliveries');
    mkdirSync(this.folder, { recursive: true, mode: 0o700 });
    this.tidy();
  }

  /** Forgets what nobody goes on with. One that was being read when its server stopped can be taken again. */
  private tidy(): void {
    const now = Date.now();
    const known = new Set<string>();
    for (const { id, state, heardAt } of this.store.deliveries.all(10_000)) {
      const ended = state === 'done' || state === 'failed';
      if (now - heardAt > (ended ? forgottenAfter.ended : forgottenAfter.receiving)) this.store.deliveries.remove(id);
      else if (!ended) {
        known.add(id);
        if (state === 'taking') this.store.deliveries.stage(id, 'receiving');
      }
    }
    for (const name of readdirSync(this.folder)) if (!known.has(name)) rmSync(join(this.folder, name));
  }

  /** Those that are under way here, newest first, then what is known of others. */
  list(): DeliveryView[] {
    const here = [...this.open.values()].map(({ view }) => view).reverse();
    const others = this.store.deliveries.all(20).filter(({ id }) => !this.open.has(id));
    return [...here, ...others.map((one) => this.fromKept(one))];
  }

  view(id: string): DeliveryView | undefined {
    const kept = this.open.get(id) ? undefined : this.store.deliveries.get(id);
    return this.open.get(id)?.view ?? (kept && this.fromKept(kept));
  }

  private fromKept({ id, state, files, size, result, problem, begunAt }: KeptDelivery): DeliveryView {
    let sent = 0;
    if (state === 'receiving') for (const have of this.store.deliveries.parts(id).values()) sent += have;
    const ended = state === 'done' || state === 'failed';
    return {
      id,
      state: state === 'taking' ? 'receiving' : state,
      names: [],
      files,
      size,
      sent: ended ? size : sent,
      begunAt,
      doing: '',
      done: 0,
      of: null,
      fates: {},
      here: false,
      result,
      problem,
    };
  }

  /** What became of each file so far, in the order they were announced; parts of archives behind them. */
  files(id: string, from: number, limit: number, fate?: FileFate): { files: DeliveredFile[]; of: number } | undefined {
    const open = this.open.get(id);
    if (!open) return undefined;
    const all: DeliveredFile[] = [];
    for (const name of open.names.keys()) all.push(this.fateOf(open, name));
    for (const [name, told] of open.fates) if (!open.names.has(name)) all.push(told);
    const wanted = fate ? all.filter((one) => one.fate === fate) : all;
    return { files: wanted.slice(from, from + limit), of: wanted.length };
  }

  private fateOf({ fates, names, files }: Open, name: string): DeliveredFile {
    const told = fates.get(name);
    if (told) return told;
    const { have, size } = files[names.get(name)!]!;
    return have >= size
      ? { name, fate: 'here', says: '' }
      : { name, fate: 'coming', says: have ? `${Math.floor((have / size) * 100)} %` : '' };
  }

  /** Announces a delivery, or goes on with one. @returns how many bytes of each file are here */
  async begin({ key, files, fields }: Announced): Promise<{ id: string; have: number[]; view: DeliveryView }> {
    const list = files.map(({ name, size, modifiedAt }) => [name, size, modifiedAt ?? null]);
    const id = `d-${createHmac('sha256', key).update(JSON.stringify(list)).digest('hex').slice(0, 20)}`;
    const open = this.open.get(id);
    if (open) return { id, have: open.files.map(({ have }) => have), view: open.view };
    const known = this.store.deliveries.get(id);
    if (known?.state === 'done' || known?.state === 'failed')
      return { id, have: files.map(({ size }) => size), view: this.fromKept(known) };
    if (this.closed) throw new DeliveryTrouble(409, 'stopping', 'Iskel is being stopped; go on once it runs again');
    if ([...this.open.values()].filter(({ view }) => view.state === 'receiving').length >= mostOpen)
      throw new DeliveryTrouble(
        409,
        'too-many',
        `${mostOpen} deliveries are under way already; go on with this one later`,
      );
    const size = files.reduce((sum, one) => sum + one.size, 0);
    const path = join(this.folder, id);
    const whole = existsSync(path) && known !== undefined;
    const parts = whole ? this.store.deliveries.parts(id) : new Map<number, number>();
    let missing = size;
    for (const have of parts.values()) missing -= have;
    await this.sureOfRoom(missing);
    const salt = whole ? known.salt : randomBytes(16);
    if (!whole) {
      rmSync(path, { force: true });
      await patiently(() => this.store.deliveries.begin({ id, salt, files: files.length, size }, Date.now()));
    }
    const masker = this.store.rules.masker(fields.secrets ?? []);
    let start = 0;
    const placed = files.map((one, number) => {
      const file = { ...one, start, have: Math.min(one.size, parts.get(number) ?? 0) };
      start += one.size;
      return file;
    });
    const names = new Map(files.map(({ name }, number) => [masker.text(cleanName(name)), number]));
    const view: DeliveryView = {
      id,
      state: 'receiving',
      names: [...names.keys()].slice(0, 3),
      files: files.length,
      size,
      sent: size - missing,
      begunAt: known?.begunAt ?? Date.now(),
      doing: 'Receiving',
      done: 0,
      of: null,
      fates: {},
      here: true,
      result: null,
      problem: null,
    };
    const fresh: Open = {
      id,
      seal: { path, key: sealKey(key, salt) },
      files: placed,
      names,
      fates: new Map(),
      fields,
      writer: undefined,
      coming: new Map(),
      view,
      toldAt: 0,
    };
    this.open.set(id, fresh);
    this.tell(fresh, true);
    return { id, have: placed.map(({ have }) => have), view };
  }

  private async sureOfRoom(missing: number): Promise<void> {
    const { bavail, bsize } = await statfs(this.folder);
    const free = bavail * bsize;
    // What is kept of it needs as much again.
    if (missing * 2 > free)
      throw new DeliveryTrouble(
        507,
        'no-room',
        `the disk has ${gigabytes(free)} left, and this delivery needs ${gigabytes(missing * 2)}; make room, or give it in parts`,
      );
  }

  /**
   * Takes bytes of one file as they come. A second sender of the same file takes over from the first.
   * @returns how many bytes of it are here
   */
  async receive(id: string, number: number, from: number, body: AsyncIterable<Buffer>): Promise<number> {
    const open = this.receiving(id);
    const file = open.files[number];
    if (!file) throw new DeliveryTrouble(404, 'no-such-file', `there is no file ${number} in this delivery`);
    const other = open.coming.get(number);
    other?.stop.abort();
    await other?.ended.catch(() => undefined);
    if (from !== file.have)
      throw new DeliveryTrouble(
        409,
        'elsewhere',
        `${file.have} bytes of this file are here; go on from there, with ?from=${file.have}`,
      );
    const stop = new AbortController();
    const ended = this.write(open, number, body, stop.signal);
    open.coming.set(number, { stop, ended });
    try {
      await ended;
    } finally {
      if (open.coming.get(number)?.stop === stop) open.coming.delete(number);
    }
    return file.have;
  }

  private async write(open: Open, number: number, body: AsyncIterable<Buffer>, stop: AbortSignal): Promise<void> {
    const file = open.files[number]!;
    const writer = await this.writerOf(open).catch((error: unknown) => {
      throw troubleOf(error, file.have);
    });
    let sure = file.have;
    const keep = async (): Promise<void> => {
      await writer.sync();
      sure = file.have;
      await patiently(() => this.store.deliveries.has(open.id, number, sure, Date.now()));
    };
    try {
      for await (const chunk of unless(stop, body)) {
        if (file.have + chunk.length > file.size)
          throw new DeliveryTrouble(
            400,
            'too-long',
            `the file was announced with ${file.size} bytes, and more came; announce the delivery anew`,
          );
        await writer.write(file.start + file.have, chunk);
        file.have += chunk.length;
        open.view.sent += chunk.length;
        if (file.have - sure > surely) await keep();
        this.tell(open);
      }
    } catch (error) {
      throw troubleOf(error, file.have);
    } finally {
      if (this.open.has(open.id) && file.have !== sure) await keep();
    }
  }

  private writerOf(open: Open): Promise<SealedWriter> {
    return (open.writer ??= SealedWriter.open(open.seal).catch((error: unknown) => {
      open.writer = undefined;
      throw error;
    }));
  }

  private receiving(id: string): Open {
    const open = this.open.get(id);
    if (!open)
      throw new DeliveryTrouble(
        404,
        'not-open',
        'no such delivery is open here; announce it again with the same key and the same files, what has come of it is kept',
      );
    if (open.view.state !== 'receiving')
      throw new DeliveryTrouble(409, 'taken', 'this delivery is being read already; nothing more can be added to it');
    return open;
  }

  /** All files are here: they are read when their turn comes. */
  async take(id: string): Promise<DeliveryView> {
    const known = this.open.get(id);
    if (known && known.view.state !== 'receiving') return known.view;
    const open = this.receiving(id);
    const missing = open.files.findIndex(({ have, size }) => have < size);
    if (missing >= 0) {
      const { name, have, size } = open.files[missing]!;
      throw new DeliveryTrouble(
        409,
        'not-whole',
        `“${name}” (file ${missing}) has ${have} of ${size} bytes; send the rest first`,
      );
    }
    // A delivery of empty files has nothing written yet.
    await (await this.writerOf(open)).close();
    open.writer = undefined;
    const { view } = open;
    const { id: intake, result } = this.intakes.takeSealed(open.seal, open.files, open.fields, {
      progress: (now) => {
        Object.assign(view, { state: 'reading', ...now });
        this.tell(open);
      },
      became: (files) => {
        for (const file of files) open.fates.set(file.name, file);
        this.count(open);
        this.tell(open);
      },
    });
    open.intake = intake;
    Object.assign(view, { state: 'waiting', doing: 'Waiting for its turn' });
    await patiently(() => this.store.deliveries.stage(id, 'taking'));
    this.tell(open, true);
    background('ending a delivery', this.ended(open, result));
    return view;
  }

  private async ended(open: Open, result: ReturnType<IntakeJobs['takeSealed']>['result']): Promise<void> {
    const { view, id } = open;
    try {
      const came = await result;
      Object.assign(view, { state: 'done', doing: 'Done', result: came });
    } catch (error) {
      // Stopped with its server it can be taken again once that runs.
      if (this.closed) return;
      Object.assign(view, { state: 'failed', doing: 'Failed', problem: asError(error).message });
    }
    this.count(open);
    await patiently(() => this.store.deliveries.stage(id, view.state as 'done' | 'failed', view.result, view.problem));
    rmSync(open.seal.path, { force: true });
    open.seal.key.fill(0);
    open.fields = {};
    this.tell(open, true);
    this.forgetOldest();
  }

  private count(open: Open): void {
    const counts: Partial<Record<FileFate, number>> = {};
    for (const { fate } of open.fates.values()) counts[fate] = (counts[fate] ?? 0) + 1;
    open.view.fates = counts;
  }

  /** What became of the files of the last few that ended stays to be looked at. */
  private forgetOldest(): void {
    const ended = [...this.open.values()].filter(({ view }) => view.state === 'done' || view.state === 'failed');
    for (const { id } of ended.slice(0, -10)) this.open.delete(id);
  }

  /** Stops a delivery wherever it is; nothing of it is kept. False when there is none. */
  async drop(id: string): Promise<boolean> {
    const open = this.open.get(id);
    if (!open && !this.store.deliveries.get(id)) return false;
    if (open) {
      if (open.intake && !open.view.result) await this.intakes.stop(open.intake);
      open.view.state = open.view.state === 'done' ? 'done' : 'failed';
      for (const { stop } of open.coming.values()) stop.abort();
      await Promise.allSettled([...open.coming.values()].map(({ ended }) => ended));
      this.open.delete(id);
      await (await open.writer)?.close();
      open.view.problem ??= 'it was stopped; nothing of it is kept';
      this.tell(open, true);
    }
    rmSync(join(this.folder, id), { force: true });
    await patiently(() => this.store.deliveries.remove(id));
    return true;
  }

  private tell(open: Open, now = false): void {
    if (!now && Date.now() - open.toldAt < 250) return;
    open.toldAt = Date.now();
    this.changes.tell({ type: 'delivery', id: open.id });
  }

  /** Breaks off what is on its way; what has come is kept, and goes on with the next server. */
  async close(): Promise<void> {
    this.closed = true;
    const ends: Promise<unknown>[] = [];
    for (const { coming, writer } of this.open.values()) {
      for (const { stop, ended } of coming.values()) {
        stop.abort();
        ends.push(ended);
      }
      if (writer)
        ends.push(
          Promise.allSettled([...coming.values()].map(({ ended }) => ended)).then(async () => (await writer).close()),
        );
    }
    // A sender that has fallen silent is not waited for.
    await Promise.race([Promise.allSettled(ends), new Promise((done) => setTimeout(done, 1000).unref())]);
  }
}

const gigabytes = (bytes: number): string =>
  bytes < 1024 ** 3 ? `${Math.ceil(bytes / 1024 ** 2)} MiB` : `${(bytes / 1024 ** 3).toFixed(1)} GiB`;
