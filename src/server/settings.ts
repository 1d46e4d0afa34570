import Joi from 'joi';
import { resolve } from 'node:path';
import { readLocalSettings, type LocalSettings } from './local-settings.ts';

export interface Settings {
  port: number;
  host: string;
  /** The data folder, absolute. */
  data: string;
  token: string | undefined;
  /** True when clients may launch browsers with any option. */
  anyLaunch: boolean;
  /** A recorded session whose client is silent this long is ended as interrupted. */
  idleMs: number;
  /** What the local settings file says. */
  local: LocalSettings;
}

export const isLoopback = (host: string): boolean =>
  host === 'localhost' || host === '::1' || host === '[::1]' || /^127(\.\d+){3}$/.test(host);

const shape = Joi.object({
  ISKEL_PORT: Joi.number().integer().min(0).max(65_535).default(4870),
  ISKEL_HOST: Joi.string().hostname().default('127.0.0.1'),
  ISKEL_DATA: Joi.string().default('.iskel'),
  ISKEL_TOKEN: Joi.string().min(16).allow(''),
  ISKEL_LAUNCH: Joi.string().valid('safe', 'any').default('safe'),
  ISKEL_SETTINGS: Joi.string().allow(''),
  ISKEL_IDLE_SECONDS: Joi.number().min(1).max(86_400).default(300),
}).unknown(true);

/**
 * Reads the settings from the environment.
 * @throws Error in words when one is wrong, or when a token is missing for a host others can reach
 */
export function readSettings(env: NodeJS.ProcessEnv): Settings {
  const { value, error } = shape.validate(env, { stripUnknown: true });
  if (error) throw new Error(`${error.message}; mend this environment variable and start again`);
  const read = value as {
    ISKEL_PORT: number;
    ISKEL_HOST: string;
    ISKEL_DATA: string;
    ISKEL_TOKEN?: string;
    ISKEL_LAUNCH: string;
    ISKEL_IDLE_SECONDS: number;
    ISKEL_SETTINGS?: string;
  };
  const data = resolve(read.ISKEL_DATA);
  if (!isLoopback(read.ISKEL_HOST) && !read.ISKEL_TOKEN) {
    throw new Error(
      `ISKEL_HOST=${read.ISKEL_HOST} can be reached by other machines; set ISKEL_TOKEN to a secret of at least 16 characters, or use 127.0.0.1`,
    );
  }
  return {
    port: read.ISKEL_PORT,
    host: read.ISKEL_HOST,
    data,
    token: read.ISKEL_TOKEN || undefined,
    anyLaunch: read.ISKEL_LAUNCH === 'any',
    idleMs: read.ISKEL_IDLE_SECONDS * 1000,
    local: readLocalSettings(data, read.ISKEL_SETTINGS),
  };
}
