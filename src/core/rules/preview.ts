import { normaliseMessage } from '../families/fingerprint.ts';
import type { Outcome } from '../evidence/attempt.ts';
import { breachWords, Policies, policyNames, policyOf, type PolicyName } from './against.ts';
import type { Complaint } from './complaints.ts';
import type { StandingRules } from './standing-rules.ts';

/** An attempt as a preview needs it. */
export interface Heard {
  id: string;
  test: string;
  title: string;
  outcome: Outcome;
  startedAt: number;
  complaints: readonly Complaint[];
}

/** What is said in some attempts in the same words. */
export interface Voice {
  words: string;
  /** What an exemption could be made of: the text as it was first said. */
  text: string;
  kind: Complaint['kind'];
  /** How many attempts say it, how many of them passed, and of how many tests they are. */
  attempts: number;
  passed: number;
  tests: number;
  /** Where it is to be seen: the newest attempt and the event in it. */
  example: { attempt: string; title: string; event: string; at: number };
}

/** What one policy would have done. */
export interface PolicyPreview {
  /** Attempts that passed and would be against it; and those that failed anyhow. */
  wouldFail: number;
  failedAnyhow: number;
  /** Tests of those that passed. */
  tests: number;
  /** What is against it, what most attempts say first. */
  voices: Voice[];
  /** Of each exemption: how many attempts it lets pass that would else be against it, and how many it no longer does since it ended. */
  exempted: { attempts: number; ended: number }[];
  words: string;
}

/** What rules would have done to the last runs. */
export interface RulesPreview {
  runs: number;
  attempts: number;
  passed: number;
  console: PolicyPreview;
  requests: PolicyPreview;
  risks: PolicyPreview;
}

const mostVoices = 40;

/**
 * What the policies of some rules would have done to attempts, whatever their effect is set to.
 * @param runs of how many runs the attempts are
 */
export function previewRules(rules: StandingRules, heard: Iterable<Heard>, runs: number): RulesPreview {
  const policies = new Policies(rules);
  const gathered = {
    console: new Gathered(rules.console.exempt.length),
    requests: new Gathered(rules.requests.exempt.length),
    risks: new Gathered(rules.risks.exempt.length),
  };
  let [attempts, passed] = [0, 0];
  for (const one of heard) {
    attempts++;
    if (one.outcome === 'passed') passed++;
    for (const policy of policyNames)
      gathered[policy].hear(
        one,
        one.complaints.filter((complaint) => policyOf(complaint) === policy),
        policies,
        rules[policy].exempt,
      );
  }
  return {
    runs,
    attempts,
    passed,
    console: gathered.console.told('console', passed),
    requests: gathered.requests.told('requests', passed),
    risks: gathered.risks.told('risks', passed),
  };
}

class Gathered {
  private readonly voices = new Map<string, Voice & { of: Set<string>; startedAt: number }>();
  private readonly exempted: PolicyPreview['exempted'];
  private readonly tests = new Set<string>();
  private wouldFail = 0;
  private failedAnyhow = 0;
  /** Attempts that passed and have but one message against them. */
  private readonly byOne = new Map<string, number>();

  constructor(exemptions: number) {
    this.exempted = Array.from({ length: exemptions }, () => ({ attempts: 0, ended: 0 }));
  }

  hear(
    one: Heard,
    complaints: readonly Complaint[],
    policies: Policies,
    exempt: StandingRules['console']['exempt'],
  ): void {
    const said = new Map<string, Complaint>();
    const letPass = new Set<number>();
    const ended = new Set<number>();
    for (const complaint of complaints) {
      const ruling = policies.ruling(complaint, one.startedAt);
      if (ruling === 'aside') continue;
      if (ruling !== 'against') {
        letPass.add(ruling.exemption);
        continue;
      }
      const before = policies.ruling(complaint, -Infinity);
      if (typeof before === 'object' && exempt[before.exemption]?.until != null) ended.add(before.exemption);
      const key = `${complaint.kind} ${complaint.by ?? ''} ${normaliseMessage(complaint.text)}`;
      if (!said.has(key)) said.set(key, complaint);
    }
    for (const i of letPass) this.exempted[i]!.attempts++;
    for (const i of ended) this.exempted[i]!.ended++;
    if (said.size === 0) return;
    if (one.outcome === 'passed') {
      this.wouldFail++;
      this.tests.add(one.test);
    } else this.failedAnyhow++;
    for (const [key, complaint] of said) this.voice(key, complaint, one);
    if (one.outcome === 'passed' && said.size === 1) {
      const [key] = said.keys();
      this.byOne.set(key!, (this.byOne.get(key!) ?? 0) + 1);
    }
  }

  private voice(key: string, complaint: Complaint, { id, title, test, outcome, startedAt }: Heard): void {
    let voice = this.voices.get(key);
    const example = { attempt: id, title, event: complaint.event, at: complaint.at };
    if (!voice) {
      const { text, kind } = complaint;
      const words = breachWords({ ...complaint, count: 1 });
      voice = { words, text, kind, attempts: 0, passed: 0, tests: 0, example, of: new Set(), startedAt };
      this.voices.set(key, voice);
    }
    voice.attempts++;
    if (outcome === 'passed') voice.passed++;
    voice.of.add(test);
    if (startedAt >= voice.startedAt) [voice.example, voice.startedAt] = [example, startedAt];
  }

  told(policy: PolicyName, passed: number): PolicyPreview {
    const voices = [...this.voices.values()]
      .sort((a, b) => b.passed - a.passed || b.attempts - a.attempts || (a.words < b.words ? -1 : 1))
      .slice(0, mostVoices)
      .map(({ of, startedAt: _, ...voice }) => ({ ...voice, tests: of.size }));
    const most = Math.max(0, ...this.byOne.values());
    return {
      wouldFail: this.wouldFail,
      failedAnyhow: this.failedAnyhow,
      tests: this.tests.size,
      voices,
      exempted: this.exempted,
      words: previewWords(policy, this.wouldFail, passed, most, this.failedAnyhow),
    };
  }
}

/** “12 of 240 attempts that passed would have failed, 9 of them by one message”. */
function previewWords(policy: PolicyName, fails: number, passed: number, byOne: number, anyhow: number): string {
  const what = { console: 'message', requests: 'request', risks: 'risk' }[policy];
  const also = anyhow ? `; ${anyhow} that failed anyhow ${anyhow === 1 ? 'has' : 'have'} such ${what}s too` : '';
  if (passed === 0) return `No attempt with evidence that passed is here to try it on${also}`;
  const of = `${passed} ${passed === 1 ? 'attempt' : 'attempts'} that passed would have failed`;
  if (fails === 0) return `None of ${of}${also}`;
  const whom = byOne < fails ? `${byOne} of them` : fails === 2 ? 'both' : 'all';
  return `${fails} of ${of}${byOne > 1 ? `, ${whom} by one ${what}` : ''}${also}`;
}
