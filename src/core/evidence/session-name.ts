import { bareAddress } from '../formats/address.ts';
import { isoOf } from '../formats/times.ts';

const timeOf = (at: number): string => isoOf(at).slice(11, 19);

/** What a session is called that was given no name. @param startedAt epoch ms */
export const unnamedSession = (startedAt: number): string => `Session of ${timeOf(startedAt)}`;

/** The same once an address was opened in it. @param startedAt epoch ms */
export const sessionAt = (address: string, startedAt: number): string =>
  `${bareAddress(address.replace(/^https?:\/\//, ''))} at ${timeOf(startedAt)}`;
