import type Database from 'better-sqlite3';
import { createMasker, type Masker } from '../../core/evidence/masking.ts';
import { guarded } from '../../core/background.ts';
import { linearPattern, type LinearPattern } from '../../core/patterns/linear-pattern.ts';
import type { FrameRules } from '../../core/failures/stack.ts';

/** Standing rules of a workspace that evidence is read by. */
export interface StandingRules {
  /** Texts in paths or names of one's own code and of libraries. */
  frames: FrameRules;
  /** Regular expressions; what they match is never stored. */
  masks: string[];
}

const empty: StandingRules = { frames: { own: [], library: [] }, masks: [] };

export class Rules {
  constructor(private readonly db: Database.Database) {}

  get(): StandingRules {
    const row = this.db.prepare("SELECT value FROM rules WHERE name = 'standing'").get() as
      { value: string } | undefined;
    return row ? { ...empty, ...(JSON.parse(row.value) as Partial<StandingRules>) } : empty;
  }

  frames(): FrameRules {
    return this.get().frames;
  }

  set(rules: StandingRules): void {
    this.db
      .prepare(
        "INSERT INTO rules (name, value) VALUES ('standing', ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
      )
      .run(JSON.stringify(rules));
  }

  /** A masker for declared secrets, known shapes and the workspace's own patterns. */
  masker(secrets: readonly string[] = []): Masker {
    return createMasker(secrets, this.patterns());
  }

  /** One that an older Iskel took and today's engine does not run is left out, and told. */
  patterns(): LinearPattern[] {
    return this.get().masks.flatMap(
      (source) => guarded(`reading the mask “${source.slice(0, 60)}”`, () => linearPattern(source)) ?? [],
    );
  }
}
