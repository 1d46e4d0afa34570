import type { Attempt, DeliveryView, IntakeResult, Run, RunFamily } from '../core/records.ts';

const pad = (text: string, width: number): string =>
  text.length > width ? `${text.slice(0, width - 1)}…` : text.padEnd(width);

/** One run a line. */
export function runsText(runs: readonly Run[]): string {
  if (!runs.length) return 'No run yet. Bring one in with “iskel intake FILE…”.';
  return runs
    .map(
      ({ id, name, startedAt, totals }) =>
        `${id}  ${new Date(startedAt).toISOString().slice(0, 16).replace('T', ' ')}  ${pad(name, 34)}  ${totals.tests} tests, ${totals.failed + totals.errored} failed, ${totals.flaky} flaky`,
    )
    .join('\n');
}

/** A run: its families, then what failed. */
export function runText(run: Run & { families: RunFamily[] }, attempts: readonly Attempt[]): string {
  const { totals } = run;
  const lines = [
    `${run.name} (${run.id}): ${totals.tests} tests, ${totals.attempts} attempts; ${totals.passed} passed, ${totals.failed + totals.errored} failed, ${totals.flaky} flaky, ${totals.skipped} skipped`,
    '',
  ];
  for (const family of run.families)
    lines.push(
      `${pad(`${family.count} ×`, 6)} ${family.sentence}${family.leading ? `  [${family.leading.cause} ${family.leading.probability.toFixed(2)}]` : ''}`,
    );
  if (run.families.length) lines.push('');
  for (const one of attempts) {
    if (one.outcome === 'passed' || one.outcome === 'skipped') continue;
    lines.push(
      `${one.id}  ${pad(one.outcome, 11)} ${one.test.suite ? `${one.test.suite} / ` : ''}${one.test.title}, ${one.environment.key}, try ${one.number}`,
    );
  }
  return lines.join('\n');
}

/** One attempt: what failed, and what speaks for what. */
export function attemptText(one: Attempt, suspects: readonly { cause: string; probability: number }[]): string {
  const lines = [
    `${one.test.suite ? `${one.test.suite} / ` : ''}${one.test.title}`,
    `${one.outcome} in ${one.environment.key}, try ${one.number}, ${(one.durationMs / 1000).toFixed(3)} s`,
  ];
  if (one.failure) {
    lines.push('', one.failure.sentence);
    if (one.failure.ownFrame) lines.push(`at ${one.failure.ownFrame.file}:${one.failure.ownFrame.line}`);
    lines.push('', one.message);
  }
  if (suspects.length)
    lines.push(
      '',
      one.undetermined
        ? 'No cause stands out.'
        : `Leading suspect: ${suspects[0]!.cause} (${suspects[0]!.probability.toFixed(2)})`,
    );
  return lines.join('\n');
}

const megabytes = (bytes: number): string => `${Math.round(bytes / 1024 ** 2).toLocaleString('en')} MiB`;

/** How far a delivery is, in one line. */
export function progressText({ state, sent, size, doing, done, of, files }: DeliveryView): string {
  if (state === 'receiving')
    return `Sending ${megabytes(sent)} of ${megabytes(size)}, ${files} ${files === 1 ? 'file' : 'files'}`;
  return `${doing}${done ? ` ${done}${of ? ` of ${of}` : ''}` : ''}`;
}

/** What came of a delivery, a line for each thing that was not placed or not read. */
export function intakeText({ attempts, attached, runId, unmatched, problems }: IntakeResult): string {
  const lines = [`${attempts} attempts, ${attached} files placed${runId ? `, run ${runId}` : ''}`];
  for (const { name, why } of unmatched) lines.push(`not placed: ${name}: ${why}`);
  for (const { name, line, message } of problems)
    lines.push(`problem: ${name}${line ? `, line ${line}` : ''}: ${message}`);
  return lines.join('\n');
}
