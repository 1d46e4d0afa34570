import type Database from 'better-sqlite3';
import { createMasker, type Masker, type OwnPattern } from '../../core/evidence/masking.ts';
import { guarded } from '../../core/background.ts';
import { linearPattern, type LinearPattern } from '../../core/patterns/linear-pattern.ts';
import type { FrameRules } from '../../core/failures/stack.ts';
import { Policies } from '../../core/rules/against.ts';
import { whatChanged } from '../../core/rules/changed.ts';
import { noRules, type RulesVersion, type StandingRules } from '../../core/rules/standing-rules.ts';
import { prepared } from './prepared.ts';

interface Row {
  number: number;
  at: number;
  set_by: string;
  changed: string;
  value: string;
}

const versionOf = ({ number, at, set_by: by, changed }: Row): RulesVersion => ({
  number,
  at,
  by,
  changed: JSON.parse(changed) as string[],
});

/** Rules of an older form have what came since as nobody set it. */
const rulesOf = ({ value }: Row): StandingRules => ({ ...noRules, ...(JSON.parse(value) as Partial<StandingRules>) });

/** Standing rules of a workspace: every form they have had, of which the last one holds. */
export class Rules {
  private kept: { number: number; rules: StandingRules; policies: Policies } | undefined;

  /** @param declared finds secrets that sessions declared, where there are any */
  constructor(
    private readonly db: Database.Database,
    private readonly declared: () => OwnPattern | undefined = () => undefined,
  ) {}

  get(): StandingRules {
    return this.current().rules;
  }

  frames(): FrameRules {
    return this.get().frames;
  }

  /** The policies, ready to be held against attempts. */
  policies(): Policies {
    return this.current().policies;
  }

  /** Number of the form that holds; 0 while nobody set any. */
  version(): number {
    return prepared(this.db, 'SELECT coalesce(max(number), 0) FROM rules_versions').pluck().get() as number;
  }

  /** Read once for each form: what is asked for with every attempt that settles. */
  private current(): NonNullable<Rules['kept']> {
    const number = this.version();
    if (this.kept?.number === number) return this.kept;
    const row = this.row(number);
    const rules = row ? rulesOf(row) : noRules;
    // A pattern that an older Iskel took and today's engine does not run costs the policies, not the attempts; it is told.
    const policies = guarded('reading the policies', () => new Policies(rules)) ?? new Policies(noRules);
    return (this.kept = { number, rules, policies });
  }

  private row(number: number): Row | undefined {
    return prepared(this.db, 'SELECT * FROM rules_versions WHERE number = ?').get(number) as Row | undefined;
  }

  /**
   * Sets the rules, as a form of its own.
   * @param by who sets them, as they call themselves
   * @returns the form that holds now; the one before when nothing has changed
   */
  set(rules: StandingRules, by: string, at: number, words?: string): RulesVersion | undefined {
    const changed = whatChanged(this.get(), rules);
    const number = this.version();
    if (changed.length === 0) return this.versions(1)[0];
    prepared(this.db, 'INSERT INTO rules_versions (number, at, set_by, changed, value) VALUES (?, ?, ?, ?, ?)').run(
      number + 1,
      at,
      by,
      JSON.stringify(words ? [words, ...changed] : changed),
      JSON.stringify(rules),
    );
    return this.versions(1)[0];
  }

  /** The forms that the rules have had, the newest first. */
  versions(limit = 100): RulesVersion[] {
    return (prepared(this.db, 'SELECT * FROM rules_versions ORDER BY number DESC LIMIT ?').all(limit) as Row[]).map(
      versionOf,
    );
  }

  /** The rules of one form; of 0, those of a workspace in which nobody had set any. */
  at(number: number): StandingRules | undefined {
    if (number === 0) return noRules;
    const row = this.row(number);
    return row && rulesOf(row);
  }

  /** A masker for declared secrets, those that sessions declared before, known shapes and the workspace's own patterns. */
  masker(secrets: readonly string[] = []): Masker {
    const declared = this.declared();
    return createMasker(secrets, declared ? [declared, ...this.patterns()] : this.patterns());
  }

  /** One that an older Iskel took and today's engine does not run is left out, and told. */
  patterns(): LinearPattern[] {
    return this.get().masks.flatMap(
      (source) => guarded(`reading the mask “${source.slice(0, 60)}”`, () => linearPattern(source)) ?? [],
    );
  }
}
