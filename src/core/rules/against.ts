import { linearPattern, type LinearPattern } from '../patterns/linear-pattern.ts';
import { quote, shorten } from '../evidence/labels.ts';
import type { Complaint } from './complaints.ts';
import type { ConsolePolicy, Effect, Exemption, RequestPolicy, RiskPolicy, StandingRules } from './standing-rules.ts';

export const policyNames = ['console', 'requests', 'risks'] as const;
export type PolicyName = (typeof policyNames)[number];

/** One thing in an attempt that a policy does not allow. */
export interface Breach {
  policy: PolicyName;
  effect: Exclude<Effect, 'off'>;
  words: string;
  count: number;
  at: number;
  event: string;
}

/** What of an attempt is against the rules. */
export interface Against {
  /** Whether it fails an attempt that passed, or is only told. */
  fails: boolean;
  breaches: Breach[];
  /** How many different ones more there are. */
  more: number;
}

/** Most breaches that are kept of an attempt. */
const mostBreaches = 20;

/** What one policy says of one complaint: it is not about it, lets it pass by an exemption, or is broken by it. */
export type Ruling = 'aside' | { exemption: number } | 'against';

type Fits = (text: string) => boolean;

/** Rules made ready to be held against many attempts: patterns are compiled once, and each text is asked once. */
export class Policies {
  private readonly exemptions: Record<PolicyName, { fits: Fits; until: number | null }[]>;

  /** @throws RangeError in words when a pattern cannot be read; the rules of the store were read before */
  constructor(readonly rules: Pick<StandingRules, PolicyName>) {
    const ready = (list: readonly Exemption[]): { fits: Fits; until: number | null }[] =>
      list.map(({ pattern, until }) => ({ fits: remembered(linearPattern(pattern)), until }));
    this.exemptions = {
      console: ready(rules.console.exempt),
      requests: ready(rules.requests.exempt),
      risks: ready(rules.risks.exempt),
    };
  }

  /**
   * What the policy that a complaint falls under says of it, whatever its effect.
   * @param startedAt when its attempt began, epoch ms: an exemption that had ended by then lets nothing pass
   */
  ruling(complaint: Complaint, startedAt: number): Ruling {
    const policy = policyOf(complaint);
    if (!concerns[policy](complaint, this.rules)) return 'aside';
    const exemption = this.exemptions[policy].findIndex(
      ({ fits, until }) => (until === null || startedAt <= until) && fits(complaint.text),
    );
    return exemption >= 0 ? { exemption } : 'against';
  }

  /** What of an attempt is against the policies that are on; nothing when none of it is. */
  against(complaints: readonly Complaint[], startedAt: number): Against | undefined {
    const breaches = complaints.flatMap((one): Breach[] => {
      const policy = policyOf(one);
      const { effect } = this.rules[policy];
      if (effect === 'off' || this.ruling(one, startedAt) !== 'against') return [];
      return [{ policy, effect, words: breachWords(one), count: one.count, at: one.at, event: one.event }];
    });
    if (breaches.length === 0) return undefined;
    // What fails it is kept before what is only told.
    const ordered = [...breaches].sort(
      (a, b) => Number(b.effect === 'fails') - Number(a.effect === 'fails') || a.at - b.at,
    );
    return {
      fails: breaches.some(({ effect }) => effect === 'fails'),
      breaches: ordered.slice(0, mostBreaches),
      more: Math.max(0, ordered.length - mostBreaches),
    };
  }
}

export const policyOf = ({ kind }: Complaint): PolicyName =>
  kind === 'request' ? 'requests' : kind === 'risk' ? 'risks' : 'console';

/** The same few texts come again and again in the attempts of a run. */
function remembered(pattern: LinearPattern): Fits {
  const known = new Map<string, boolean>();
  return (text) => {
    let fits = known.get(text);
    if (fits === undefined) known.set(text, (fits = pattern.fits(text)));
    return fits;
  };
}

const within = (parts: readonly string[], ...texts: (string | undefined)[]): boolean =>
  parts.length === 0 || texts.some((text) => text !== undefined && parts.some((part) => text.includes(part)));

function concernsConsole(one: Complaint, { levels, uncaught, swallowed, from, only }: ConsolePolicy): boolean {
  if (from === 'own' && !one.own) return false;
  if (!within(only, one.page, one.source)) return false;
  if (one.kind === 'exception') return uncaught;
  // One that was caught and written down is a line as well.
  if (one.kind === 'swallowed' && swallowed) return true;
  return one.level !== undefined && levels.includes(one.level);
}

const concernsRequests = ({ ended, source, page }: Complaint, { ends, only }: RequestPolicy): boolean =>
  ended !== undefined && ends.includes(ended) && within(only, source, page);

const concernsRisks = ({ risk, text }: Complaint, { kinds, only }: RiskPolicy): boolean =>
  risk !== undefined && kinds.includes(risk) && within(only, text);

/** Whether a policy is about a complaint at all. */
const concerns: Record<PolicyName, (one: Complaint, rules: Pick<StandingRules, PolicyName>) => boolean> = {
  console: (one, rules) => concernsConsole(one, rules.console),
  requests: (one, rules) => concernsRequests(one, rules.requests),
  risks: (one, rules) => concernsRisks(one, rules.risks),
};

/** “Passed, against the rules: The page threw “…”, and nothing caught it; and 2 more”. */
export function againstWords({ fails, breaches, more }: Against): string {
  const others = breaches.length - 1 + more;
  return `${fails ? 'Passed, against the rules' : 'Against a rule that only tells'}: ${breaches[0]!.words}${others ? `; and ${others} more` : ''}`;
}

/** What is wrong, in a sentence of its own. */
export function breachWords({ kind, text, level, by, count }: Complaint): string {
  const often = count > 1 ? `, ${count} times` : '';
  const said = quote(shorten(text, 160));
  switch (kind) {
    case 'exception':
      return `The page threw ${said}, and nothing caught it${often}`;
    case 'swallowed':
      return by === 'test'
        ? `${text}${often}`
        : by === 'handler'
          ? `An exception was suppressed by a handler on the page: ${said}${often}`
          : `An exception was caught and only written down: ${said}${often}`;
    case 'request':
      return `${text}, and the test did not mind${often}`;
    case 'risk':
      return `The test ${text}`;
    case 'line':
      return `The console says ${said} (${level})${often}`;
  }
}
