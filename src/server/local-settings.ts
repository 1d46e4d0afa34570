import { readFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import Joi from 'joi';
import { engineNames } from '../browser/engine-names.ts';
import type { RemoteSettings } from '../browser/remote-place.ts';

/** What the settings file of this machine says; pages may not change it. */
export interface LocalSettings {
  /** Test commands of the team's own, by which tests can be run again. */
  commands: TestCommand[];
  /** Remote WebDriver endpoints. */
  places: RemoteSettings[];
  /** Bodies of requests and answers are recorded. */
  bodies: boolean;
  /** Histories of an application in which the commit is looked for that moved a rate. */
  bisects?: BisectSettings[];
  /** Services to which a trace context is sent along with each request: scheme, host and port. */
  traces?: string[];
  /** Where drills may type a secret, by its name; one that is not named here goes wherever a drill of ours types it. */
  secrets: { name: string; hosts: string[] }[];
  /** Folders out of which drills from elsewhere may be allowed files. */
  drillFiles: string[];
}

/** A program with its arguments; started without a shell. */
export interface ProgramCall {
  program: string;
  args: string[];
  environment: Record<string, string>;
}

/** How an application is started at any of its commits, and by what it is tried. */
export interface BisectSettings {
  name: string;
  /** The folder of its git repository; from the settings file where it is not absolute. */
  folder: string;
  /** Done once in the files of each commit, before it is started there. */
  prepare?: ProgramCall;
  start: ProgramCall;
  /** The application is up when this address answers. */
  ready: string;
  readySeconds: number;
  /** A trial: it failed when this ends with anything but 0. */
  test?: ProgramCall;
  /** Or a drill of this Iskel. */
  drill?: string;
  engine: string;
}

/** Shorter ones, words and numbers, paths and plain addresses are everybody's. */
const plain = /^(?:[a-z]{1,20}|\d{1,6}|[./~][\w./-]*|https?:\/\/[\w.:/-]*)$/i;
const secretName = /pass|secret|token|key|credential|auth/i;

/** Values of a command's environment that are to be read nowhere. */
export const secretsIn = (environment: Readonly<Record<string, string>>): string[] =>
  Object.entries(environment)
    .filter(
      ([name, value]) => value.length >= 4 && ((value.length >= 6 && !plain.test(value)) || secretName.test(name)),
    )
    .map(([, value]) => value);

/** A program that runs the team's tests. It is started without a shell. */
export interface TestCommand {
  name: string;
  program: string;
  /** May hold `{filter}`, `{files}`, `{run}`, `{remote}` and `{repetition}`. */
  args: string[];
  /** Where it is started; from the settings file where it is not absolute. */
  folder: string;
  environment: Record<string, string>;
  /** Files, or folders of files, that it writes its reports to; from its folder. */
  reports: string[];
  /** It is ended after so long. */
  minutes: number;
}

const command = Joi.object<TestCommand>({
  name: Joi.string()
    .pattern(/^[\w.-][\w. -]{0,59}$/, 'letters, digits, dots, dashes and spaces')
    .invalid('drills')
    .required(),
  program: Joi.string().max(4000).required(),
  args: Joi.array().items(Joi.string().allow('').max(4000)).max(200).default([]),
  folder: Joi.string().max(4000).required(),
  environment: Joi.object()
    .pattern(Joi.string().pattern(/^[A-Za-z_]\w{0,99}$/), Joi.string().allow('').max(30_000))
    .default({}),
  reports: Joi.array().items(Joi.string().max(4000)).max(50).default([]),
  minutes: Joi.number().min(0.1).max(1440).default(30),
});

const place = Joi.object<RemoteSettings>({
  name: Joi.string()
    .pattern(/^[\w.-]{1,40}$/, 'letters, digits, dots and dashes')
    .invalid(...engineNames)
    .required()
    .messages({ 'any.invalid': '{{#label}} is the name of an engine of this machine; choose another' }),
  address: Joi.string()
    .uri({ scheme: ['http', 'https'] })
    .required(),
  authorization: Joi.string().max(4000),
  browser: Joi.string().default('chrome'),
  capabilities: Joi.object().unknown(true).default({}),
  labels: Joi.object().pattern(Joi.string(), Joi.string()).default({}),
  sessions: Joi.number().integer().min(1).max(1000).default(1),
  socket: Joi.boolean().default(false),
});

const call = Joi.object<ProgramCall>({
  program: Joi.string().max(4000).required(),
  args: Joi.array().items(Joi.string().allow('').max(4000)).max(200).default([]),
  environment: Joi.object()
    .pattern(Joi.string().pattern(/^[A-Za-z_]\w{0,99}$/), Joi.string().allow('').max(30_000))
    .default({}),
});

const bisect = Joi.object<BisectSettings>({
  name: Joi.string()
    .pattern(/^[\w.-]{1,60}$/, 'letters, digits, dots and dashes')
    .required(),
  folder: Joi.string().max(4000).required(),
  prepare: call,
  start: call.required(),
  ready: Joi.string()
    .uri({ scheme: ['http', 'https'] })
    .required(),
  readySeconds: Joi.number().min(1).max(3600).default(120),
  test: call,
  drill: Joi.string().max(80),
  engine: Joi.string()
    .valid(...engineNames)
    .default('chromium'),
}).xor('test', 'drill');

const secret = Joi.object({
  name: Joi.string()
    .pattern(/^[\w-]{1,60}$/, 'letters, digits and dashes')
    .required(),
  hosts: Joi.array()
    .items(Joi.string().hostname(), Joi.string().pattern(/^[\w.-]{1,253}:\d{1,5}$/))
    .min(1)
    .max(100)
    .required(),
});

const shape = Joi.object<LocalSettings>({
  secrets: Joi.array().items(secret).unique('name').max(200).default([]),
  drillFiles: Joi.array().items(Joi.string().max(4000)).max(50).default([]),
  commands: Joi.array().items(command).unique('name').max(50).default([]),
  places: Joi.array().items(place).unique('name').max(100).default([]),
  bodies: Joi.boolean().default(true),
  traces: Joi.array()
    .items(Joi.string().uri({ scheme: ['http', 'https'] }))
    .max(50)
    .default([]),
  bisects: Joi.array().items(bisect).unique('name').max(50).default([]),
});

export const noLocalSettings: LocalSettings = { secrets: [], drillFiles: [], commands: [], places: [], bodies: true };

/**
 * Reads the settings file.
 * @param data the data folder, where it lies unless it is named
 * @throws Error that tells every fault in it, each with its place and how to mend it
 */
export function readLocalSettings(data: string, named?: string): LocalSettings {
  const path = named ? resolve(named) : join(data, 'iskel.settings.json');
  let text: string;
  try {
    text = readFileSync(path, 'utf8');
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'ENOENT' && !named) return noLocalSettings;
    throw new Error(`the settings file ${path} cannot be read (${code}); mend ISKEL_SETTINGS, or write the file`);
  }
  let told: unknown;
  try {
    told = JSON.parse(text);
  } catch (error) {
    throw new Error(`the settings file ${path} is not readable as JSON: ${(error as Error).message}`);
  }
  const { value, error } = shape.validate(told, { abortEarly: false });
  if (!error)
    return {
      ...value,
      drillFiles: value.drillFiles.map((folder) => resolve(dirname(path), folder)),
      commands: value.commands.map((one) => ({ ...one, folder: resolve(dirname(path), one.folder) })),
      bisects: value.bisects?.map((one) => ({ ...one, folder: resolve(dirname(path), one.folder) })),
    };
  const faults = error.details.map(({ message }) => `  ${message}`);
  throw new Error(
    `the settings file ${path} has ${faults.length === 1 ? 'a fault' : `${faults.length} faults`}; mend it and start again:\n${faults.join('\n')}`,
  );
}
