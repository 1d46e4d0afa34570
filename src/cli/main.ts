#!/usr/bin/env -S npx tsx
// The command iskel: the server's jobs from a terminal. Exit codes: 0 done, 1 failed, 2 wrongly called, 3 taken in, but not everything placed.
import { background } from '../core/background.ts';
import { writeFileSync } from 'node:fs';
import { complain, print, shown } from './print.ts';
import { Command, CommanderError } from 'commander';
import pino from 'pino';
import type { Attempt, DeliveryView, Run, RunFamily } from '../core/records.ts';
import { deliver } from '../browser/devtools/deliver.ts';
import { spoolFolder } from '../browser/devtools/spool.ts';
import { standInPath } from '../browser/devtools/stand-in-path.ts';
import { readSettings } from '../server/settings.ts';
import { CliError, openHome, version, type Home } from './home.ts';
import { bisect, bisectDefaults } from './bisect.ts';
import { carriedOut } from './child.ts';
import { doctor, findingText, type Finding } from './doctor.ts';
import { judge, judgedText } from './judge.ts';
import { filesOf, takeIn, type IntakeOptions } from './intake.ts';
import { watch } from './watch.ts';
import { attemptText, intakeText, progressText, runsText, runText } from './show.ts';

interface Common {
  server?: string;
  data?: string;
  token?: string;
  json?: boolean;
}

const program = new Command('iskel')
  .description('Triage of failing and flaky browser tests, from a terminal')
  .version(version)
  .exitOverride()
  .configureHelp({ showGlobalOptions: true });
program
  .option(
    '--server <address>',
    'a running Iskel; otherwise the one at ISKEL_HOST:ISKEL_PORT, or the data folder itself',
  )
  .option('--data <folder>', 'work on this data folder without a running server')
  .option('--token <token>', 'token of a server that needs one (or ISKEL_TOKEN)')
  .option('--json', 'answer as JSON');

/** The arguments after “browser” are the browser's own, whatever they look like. @returns as it ended */
function asBrowser(args: string[]): Promise<number> {
  // In a process of its own, as a runner starts it: with the pipes it was given.
  return carriedOut(
    [standInPath, ...args],
    { stdio: ['inherit', 'inherit', 'inherit', 'inherit', 'inherit'] },
    (error) => complain(`iskel: ${error.message}`),
  );
}

const common = (): Common => program.opts<Common>();
const say = (value: unknown, text: string): void => print(common().json ? JSON.stringify(value, null, 1) : text);

async function at(work: (home: Home) => Promise<void>): Promise<void> {
  const home = await openHome(common());
  try {
    await work(home);
  } finally {
    await home.close();
  }
}

const progressLine = (now: DeliveryView): void => {
  if (process.stderr.isTTY) process.stderr.write(`\r\x1b[K${shown(progressText(now))}`);
};
const label = (value: string, all: Record<string, string>): Record<string, string> => {
  const cut = value.indexOf('=');
  if (cut < 1) throw new CliError(`a label is written name=value, got “${value}”`, 2);
  return { ...all, [value.slice(0, cut)]: value.slice(cut + 1) };
};
const also = (value: string, all: string[]): string[] => [...all, value];

const withFields = (command: Command): Command =>
  command
    .option('--run <name>', 'name or id of the run they belong to')
    .option(
      '--label <name=value>',
      'say something of them all: browser, version, size, place, commit, branch',
      label,
      {},
    )
    .option('--zone <minutes>', 'minutes east of UTC of times that name no zone')
    .option('--secret <value>', 'a value never to be stored', also, []);

withFields(
  program
    .command('intake <paths...>')
    .description('take in reports, logs, HARs, pictures, videos, archives, whole folders; called again it goes on'),
).action((paths: string[], options: IntakeOptions) =>
  at(async (home) => {
    const result = await takeIn(home, filesOf(paths), options, progressLine);
    if (process.stderr.isTTY) process.stderr.write('\r\x1b[K');
    say(result, intakeText(result));
    if (result.unmatched.length || result.problems.length) process.exitCode = 3;
  }),
);

const seconds = (value: string): number => {
  const read = Number(value);
  if (!(read >= 0)) throw new CliError(`a number of seconds is expected, got “${value}”`, 2);
  return read * 1000;
};

withFields(
  program
    .command('watch <folder>')
    .description('take in what comes into a folder, as it comes, until it is stopped')
    .option('--quiet <seconds>', 'a delivery goes once nothing new has changed for so long', seconds, 3000)
    .option('--report <seconds>', 'files without a report wait so long for one', seconds, 60_000)
    .option('--new-only', 'leave out what is there already'),
).action((folder: string, options: IntakeOptions & { quiet: number; report: number; newOnly?: boolean }) =>
  at(async (home) => {
    let stop = false;
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => (stop = true));
    if (!common().json) print(`Watching ${folder}; what comes into it goes to ${home.address}`);
    await watch({
      folder,
      options: {
        quietMs: options.quiet,
        reportMs: options.report,
        everyMs: Math.min(1000, Math.max(100, options.quiet / 3)),
        newOnly: options.newOnly ?? false,
      },
      give: (files, run) => takeIn(home, files, run && !options.run ? { ...options, run } : options, progressLine),
      gave: (files, result) => {
        if (process.stderr.isTTY) process.stderr.write('\r\x1b[K');
        say(result, `${files.length} files: ${intakeText(result)}`);
      },
      failed: (files, error) => complain(`iskel: ${files.length} files were not taken: ${error.message}`),
      stopped: () => stop,
    });
  }),
);

program
  .command('runs')
  .description('the newest runs')
  .option('--limit <count>', 'how many', '20')
  .action(({ limit }: { limit: string }) =>
    at(async (home) => {
      const { runs } = await home.get<{ runs: Run[] }>(`/runs?limit=${Number(limit) || 20}`);
      say(runs, runsText(runs));
    }),
  );

program
  .command('show <id>')
  .description('a run or an attempt')
  .action((id: string) =>
    at(async (home) => {
      if (id.startsWith('a-')) {
        const attempt = await home.get<Attempt>(`/attempts/${id}`);
        const { suspects } = await home.get<{ suspects: { cause: string; probability: number }[] }>(
          `/attempts/${id}/suspects`,
        );
        return say({ ...attempt, suspects }, attemptText(attempt, suspects));
      }
      const run = await home.get<Run & { families: RunFamily[] }>(`/runs/${id}`);
      const { attempts } = await home.get<{ attempts: Attempt[] }>(`/runs/${id}/attempts`);
      say({ ...run, attempts }, runText(run, attempts));
    }),
  );

program
  .command('judge <run>')
  .description(
    'hold a run, by id, name or “latest”, against the standing rules: ends with 4 when a test of it passed against them',
  )
  .option('--wait <seconds>', 'how long its attempts may still be analysed', seconds, 120_000)
  .action((run: string, { wait }: { wait: number }) =>
    at(async (home) => {
      const told = await judge(home, run, wait);
      say(told, judgedText(told));
      if (told.against.length) process.exitCode = 4;
    }),
  );

const whole = (value: string): number => {
  const read = Number(value);
  if (!Number.isInteger(read) || read < 1)
    throw new CliError(`a whole number from 1 on is expected, got “${value}”`, 2);
  return read;
};

program
  .command('bisect <name>')
  .description(
    'find the commit that moved the rate at which a test fails, as the settings file of this machine says: ends with 5 when none is sure',
  )
  .requiredOption('--good <commit>', 'one at which it failed as often as it should')
  .option('--bad <commit>', 'one at which it does not any more', 'HEAD')
  .option('--ends <trials>', 'trials of both of these first', whole, bisectDefaults.ends)
  .option('--trials <most>', 'most trials in all', whole, bisectDefaults.most)
  .action((name: string, options: { good: string; bad: string; ends: number; trials: number }) =>
    at(async (home) => {
      const { data } = common();
      const { bisects = [] } = readSettings({ ...process.env, ...(data ? { ISKEL_DATA: data } : {}) }).local;
      const settings = bisects.find((one) => one.name === name);
      if (!settings)
        throw new CliError(
          `the settings file names no bisection “${name}”; it names ${bisects.map((one) => one.name).join(', ') || 'none'} (docs/bisect.md)`,
          2,
        );
      let stop = false;
      for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => (stop = true));
      const told = await bisect(
        home,
        settings,
        { ...options, most: options.trials },
        (line) => common().json || print(line),
        () => stop,
      );
      say(told, told.words);
      if (!told.found?.sure) process.exitCode = 5;
    }),
  );

const forms: Record<string, { of: 'a' | 'r'; call: string; ending: string }> = {
  pack: { of: 'a', call: 'pack', ending: 'iskel.zip' },
  har: { of: 'a', call: 'har', ending: 'har' },
  console: { of: 'a', call: 'console', ending: 'console.txt' },
  steps: { of: 'a', call: 'steps', ending: 'steps.vtt' },
  junit: { of: 'r', call: 'junit', ending: 'xml' },
  csv: { of: 'r', call: 'table', ending: 'csv' },
};
program
  .command('export <id>')
  .description(
    `write an attempt as ${Object.keys(forms)
      .filter((name) => forms[name]!.of === 'a')
      .join(', ')}, or a run as junit, csv`,
  )
  .option('--as <form>', 'what to write; a pack for an attempt, junit for a run')
  .option('-o, --out <file>', 'where to; - is standard output')
  .action((id: string, options: { as?: string; out?: string }) =>
    at(async (home) => {
      const name = options.as ?? (id.startsWith('a-') ? 'pack' : 'junit');
      const form = forms[name];
      if (!form) throw new CliError(`there is no form “${name}”; there are ${Object.keys(forms).join(', ')}`, 2);
      if (form.of !== (id.startsWith('a-') ? 'a' : 'r'))
        throw new CliError(`${name} is written of ${form.of === 'a' ? 'an attempt' : 'a run'}`, 2);
      const bytes = await home.text(`/${form.of === 'a' ? 'attempts' : 'runs'}/${id}/${form.call}`);
      const out = options.out ?? `${id}.${form.ending}`;
      if (out === '-') process.stdout.write(bytes);
      else {
        writeFileSync(out, bytes);
        say({ file: out, bytes: bytes.length }, `${out}, ${bytes.length} bytes`);
      }
    }),
  );

program
  .command('browser')
  .description('stands in for Chromium or Firefox: starts it with the same arguments and records what drives it')
  .option('--print-path', 'only say which path to give a runner')
  .argument('[arguments...]', 'the browser’s own')
  .allowUnknownOption()
  .action(() => print(standInPath));

program
  .command('doctor')
  .description('looks through a set-up: server, browser, and one test of yours with its report, as it will be recorded')
  .option('--report <path>', 'where your test writes its report; may be given often', also, [])
  .argument('[command...]', 'your own call of one test, after “--”')
  .action(async (command: string[], { report }: { report: string[] }) => {
    const { server, token, json } = common();
    const settings = readSettings(process.env);
    const findings: Finding[] = [];
    const ok = await doctor({
      address: (server ?? process.env.ISKEL_URL ?? `http://${settings.host}:${settings.port}`).replace(/\/$/, ''),
      token: token ?? process.env.ISKEL_TOKEN ?? settings.token,
      command,
      report,
      folder: process.cwd(),
      told: (finding) => {
        findings.push(finding);
        if (!json) print(findingText(finding));
      },
    });
    if (json) print(JSON.stringify({ ok, findings }, null, 1));
    else
      print(
        command.length
          ? ok
            ? 'All is well.'
            : ''
          : 'Give your own call of one test after “--” to try it: iskel doctor -- COMMAND',
      );
    if (!ok) process.exitCode = 1;
  });

program
  .command('deliver')
  .description('takes in what “iskel browser” recorded while no Iskel answered')
  .option('--spool <folder>', 'where it waits, instead of ISKEL_SPOOL or the user’s own folder')
  .action(({ spool }: { spool?: string }) =>
    at(async (home) => {
      const token = home.headers.authorization?.replace('Bearer ', '');
      const result = await deliver(spool ?? spoolFolder(), { to: home.address, token, tokenFor: home.address });
      const lines = [`${result.delivered} ${result.delivered === 1 ? 'attempt' : 'attempts'} taken in`];
      for (const { id, why } of result.left) lines.push(`not taken in: ${id}: ${why}`);
      say(result, lines.join('\n'));
      if (result.left.length) process.exitCode = 3;
    }),
  );

program
  .command('serve')
  .description('start the server on the data folder, as “npm start” does')
  .option('--port <port>', 'instead of ISKEL_PORT')
  .action(async ({ port }: { port?: string }) => {
    const { data } = common();
    const settings = readSettings({
      ...process.env,
      ...(data ? { ISKEL_DATA: data } : {}),
      ...(port ? { ISKEL_PORT: port } : {}),
    });
    const { startServer } = await import('../server/server.ts');
    const running = await startServer(settings, pino({ level: process.env.ISKEL_LOG ?? 'warn' }, pino.destination(2)));
    print(`Iskel is at ${running.address}`);
    await new Promise<void>((done) => {
      for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const)
        process.on(signal, () => background('closing the server', running.close().then(done)));
    });
  });

const [called, ...theirs] = process.argv.slice(2);
try {
  if (called === 'browser' && !theirs.some((one) => /^--(?:print-path|help)$/.test(one)))
    process.exit(await asBrowser(theirs));
  await program.parseAsync();
  process.exit();
} catch (error) {
  if (error instanceof CommanderError) process.exit(error.exitCode === 0 ? 0 : 2);
  complain((error as Error).message);
  process.exit(error instanceof CliError ? error.code : 1);
}
