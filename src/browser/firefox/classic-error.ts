import { BidiRefused } from '../bidi.ts';

/** Errors of the WebDriver specification, section "Errors", with the HTTP status each is answered with. */
const statuses = {
  'detached shadow root': 404,
  'element click intercepted': 400,
  'element not interactable': 400,
  'insecure certificate': 400,
  'invalid argument': 400,
  'invalid cookie domain': 400,
  'invalid element state': 400,
  'invalid selector': 400,
  'invalid session id': 404,
  'javascript error': 500,
  'move target out of bounds': 500,
  'no such alert': 404,
  'no such cookie': 404,
  'no such element': 404,
  'no such frame': 404,
  'no such shadow root': 404,
  'no such window': 404,
  'script timeout': 500,
  'session not created': 500,
  'stale element reference': 404,
  timeout: 500,
  'unable to capture screen': 500,
  'unable to set cookie': 500,
  'unexpected alert open': 500,
  'unknown command': 404,
  'unknown error': 500,
  'unknown method': 405,
  'unsupported operation': 500,
} as const;

export type ClassicCode = keyof typeof statuses;

/** A command failed, in the words of the classic protocol. */
export class ClassicError extends Error {
  constructor(
    readonly code: ClassicCode,
    message: string,
    readonly data?: Record<string, unknown>,
  ) {
    super(message);
  }

  get status(): number {
    return statuses[this.code];
  }
}

/** Codes that BiDi has and the classic protocol has not. */
const translated: Readonly<Record<string, ClassicCode>> = {
  'no such node': 'stale element reference',
  'no such handle': 'javascript error',
  'no such script': 'unknown error',
  'no such history entry': 'unknown error',
  'no such request': 'unknown error',
  'unable to set file input': 'invalid argument',
  'unable to close browser': 'unknown error',
};

/** What the browser's own protocol said, as the classic one says it. */
export function classicError(error: unknown): ClassicError {
  if (error instanceof ClassicError) return error;
  if (!(error instanceof BidiRefused))
    return new ClassicError('unknown error', error instanceof Error ? error.message : String(error));
  const { code, said } = error;
  if (code === 'no such frame')
    return new ClassicError('no such window', 'the frame or window that was looked at is gone');
  if (code in statuses) return new ClassicError(code as ClassicCode, said);
  return new ClassicError(translated[code] ?? 'unknown error', error.message);
}

/** An argument that is not what the specification wants there. */
export const invalid = (message: string): ClassicError => new ClassicError('invalid argument', message);
