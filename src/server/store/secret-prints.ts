import type Database from 'better-sqlite3';
import { createHmac, randomBytes } from 'node:crypto';
import { linkSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { OwnPattern } from '../../core/evidence/masking.ts';
import { findingPrints, printsOf, type SecretPrint } from '../../core/evidence/secret-prints.ts';
import { prepared } from './prepared.ts';

/** More of them are not looked for: of more, those that were declared last. */
const mostPrints = 20_000;
/** A secret that is declared again and again is noted down again no oftener than this, ms. */
const noteAgainMs = 3_600_000;

/** Secrets that sessions declared, as one-way forms: what is told of their tests later is masked by them. */
export class SecretPrints {
  private found: { pattern: OwnPattern | undefined; at: string } | undefined;
  private readonly noted = new Map<string, number>();
  private key: Buffer | undefined;

  constructor(
    private readonly db: Database.Database,
    private readonly home: string,
  ) {}

  private readonly oneWay = (text: string): string => {
    this.key ??= keyIn(this.home);
    return createHmac('sha256', this.key).update(text).digest('base64url').slice(0, 27);
  };

  /** Notes down what was declared. */
  remember(secrets: readonly string[], now = Date.now()): void {
    const fresh = secrets.filter((one) => one.length >= 3 && now - (this.noted.get(one) ?? 0) > noteAgainMs);
    if (!fresh.length) return;
    const put = prepared(
      this.db,
      `INSERT INTO secret_prints (proof, length, start, seen_at) VALUES (?, ?, ?, ?)
         ON CONFLICT (proof) DO UPDATE SET seen_at = excluded.seen_at`,
    );
    for (const secret of fresh) {
      for (const { proof, length, start } of printsOf(secret, this.oneWay)) put.run(proof, length, start, now);
      this.noted.set(secret, now);
    }
    if (this.noted.size > mostPrints) this.noted.clear();
    prepared(
      this.db,
      `DELETE FROM secret_prints WHERE seen_at < (SELECT seen_at FROM secret_prints ORDER BY seen_at DESC LIMIT 1 OFFSET ${mostPrints})`,
    ).run();
  }

  /** Finds them in texts; nothing where there are none. */
  pattern(): OwnPattern | undefined {
    const { count, newest } = prepared(
      this.db,
      'SELECT count(*) AS count, max(seen_at) AS newest FROM secret_prints',
    ).get() as { count: number; newest: number | null };
    const at = `${count} ${newest}`;
    if (this.found?.at === at) return this.found.pattern;
    const prints = prepared(this.db, 'SELECT proof, length, start FROM secret_prints').all() as SecretPrint[];
    this.found = { at, pattern: prints.length ? findingPrints(prints, this.oneWay) : undefined };
    return this.found.pattern;
  }
}

/** The key lies beside the database, not in it: a copy of the one tells nothing without the other. */
function keyIn(home: string): Buffer {
  const path = join(home, 'prints.key');
  try {
    return readFileSync(path);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
  }
  const draft = `${path}.${process.pid}-${randomBytes(4).toString('hex')}`;
  writeFileSync(draft, randomBytes(32), { mode: 0o600 });
  try {
    // Another thread may have been quicker: its key holds.
    linkSync(draft, path);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
  } finally {
    rmSync(draft, { force: true });
  }
  return readFileSync(path);
}
