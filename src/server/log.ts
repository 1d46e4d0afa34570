import pino, { type Logger } from 'pino';
import { createMasker } from '../core/evidence/masking.ts';

/** What a line of the log passes before it is written. */
type LineMask = (line: string) => string;

const shapes = createMasker(ownSecrets());
const masks = new Set<LineMask>([(line) => shapes.text(line)]);

/** Has every line of the log pass a mask from now on. @returns the call that ends it */
export function maskLog(mask: LineMask): () => void {
  masks.add(mask);
  return () => masks.delete(mask);
}

/** A line as it may be written. One that cannot be masked is not written at all. */
export function maskedLine(line: string): string {
  try {
    let out = line;
    for (const mask of masks) out = mask(out);
    return out.endsWith('\n') ? out : `${out}\n`;
  } catch {
    return '{"level":50,"msg":"a line of the log could not be masked and was left out"}\n';
  }
}

/** The server's log, on standard error: secrets stay out of it as they stay out of everything that is kept. */
export const makeLog = (level: string): Logger =>
  pino({ level, hooks: { streamWrite: maskedLine } }, pino.destination(2));

/** Our own token, and what drills type by name. */
function ownSecrets(): string[] {
  return Object.entries(process.env).flatMap(([name, value]) =>
    (name === 'ISKEL_TOKEN' || name.startsWith('ISKEL_SECRET_')) && value && value.length >= 3 ? [value] : [],
  );
}
