import { isoOf } from './times.ts';
import type { Attempt } from '../records.ts';
import { againstWords } from '../rules/against.ts';

const escaped = (text: string): string =>
  text
    // Characters XML cannot hold at all.
    .replace(
      /[\0-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g,
      '\ufffd',
    )
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll('\n', '&#10;');

/**
 * A run as JUnit XML: one testsuite an environment and suite, every attempt a testcase in order, its
 * number, environment and id as properties, so that nothing is lost on the way through other tools. One that passed against
 * the standing rules is a failure of a type of its own; what the rules only tell is among its output.
 */
export function writeJunit(run: { name: string; startedAt: number }, attempts: readonly Attempt[]): string {
  const suites = new Map<string, Attempt[]>();
  for (const attempt of attempts) {
    const key = `${attempt.environment.key}\n${attempt.test.suite}`;
    const list = suites.get(key);
    if (list) list.push(attempt);
    else suites.set(key, [attempt]);
  }
  const count = (list: readonly Attempt[], outcome: string): number =>
    list.filter((one) => one.outcome === outcome).length;
  const failures = (list: readonly Attempt[]): number => count(list, 'failed') + list.filter(failsByRules).length;
  const totals = (list: readonly Attempt[]): string =>
    `tests="${list.length}" failures="${failures(list)}" errors="${count(list, 'errored') + count(list, 'interrupted')}" skipped="${count(list, 'skipped')}" time="${(list.reduce((sum, one) => sum + one.durationMs, 0) / 1000).toFixed(3)}"`;
  const lines = [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<testsuites name="${escaped(run.name)}" ${totals(attempts)}>`,
  ];
  for (const [key, list] of suites) {
    const [environment, suite] = key.split('\n');
    const start = new Date(Math.min(...list.map((one) => one.startedAt))).toISOString();
    lines.push(
      ` <testsuite name="${escaped(suite || run.name)}" hostname="${escaped(environment!)}" timestamp="${start}" ${totals(list)}>`,
    );
    for (const one of list) lines.push(...caseLines(one));
    lines.push(' </testsuite>');
  }
  lines.push('</testsuites>', '');
  return lines.join('\n');
}

/** The type of a failure that is none of the test's own. */
export const againstType = 'against-the-rules';

const failsByRules = ({ outcome, against }: Attempt): boolean => outcome === 'passed' && against?.fails === true;

const breachLines = ({ against }: Attempt): string =>
  against!.breaches.map(({ words, at }) => `at ${(at / 1000).toFixed(3)} s: ${words}`).join('\n');

function caseLines(one: Attempt): string[] {
  const file = one.test.file ? ` file="${escaped(one.test.file)}"` : '';
  const lines = [
    `  <testcase name="${escaped(one.test.title)}" classname="${escaped(one.test.suite)}" time="${(one.durationMs / 1000).toFixed(3)}" timestamp="${isoOf(one.startedAt)}"${file}>`,
    `   <properties><property name="attempt" value="${one.number}"/><property name="environment" value="${escaped(one.environment.key)}"/><property name="iskel" value="${one.id}"/></properties>`,
  ];
  const sentence = one.failure?.sentence ? ` type="${escaped(one.failure.kind)}"` : '';
  if (one.outcome === 'failed')
    lines.push(`   <failure message="${escaped(one.message)}"${sentence}>${escaped(one.stack)}</failure>`);
  else if (one.outcome === 'errored' || one.outcome === 'interrupted')
    lines.push(
      `   <error message="${escaped(one.message || one.interruptedBy || one.outcome)}"${sentence}>${escaped(one.stack)}</error>`,
    );
  else if (one.outcome === 'skipped') lines.push(`   <skipped message="${escaped(one.message)}"/>`);
  else if (failsByRules(one))
    lines.push(
      `   <failure message="${escaped(againstWords(one.against!))}" type="${againstType}">${escaped(breachLines(one))}</failure>`,
    );
  if (one.against && !failsByRules(one))
    lines.push(`   <system-out>${escaped(`${againstWords(one.against)}\n${breachLines(one)}`)}</system-out>`);
  return [...lines, '  </testcase>'];
}
