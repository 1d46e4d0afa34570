import { isoOf } from './times.ts';
import type { Attempt } from '../records.ts';

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
 * number, environment and id as properties, so that nothing is lost on the way through other tools.
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
  const totals = (list: readonly Attempt[]): string =>
    `tests="${list.length}" failures="${count(list, 'failed')}" errors="${count(list, 'errored') + count(list, 'interrupted')}" skipped="${count(list, 'skipped')}" time="${(list.reduce((sum, one) => sum + one.durationMs, 0) / 1000).toFixed(3)}"`;
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
  return [...lines, '  </testcase>'];
}
