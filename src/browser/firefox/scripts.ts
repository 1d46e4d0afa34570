import type { Commands } from './command.ts';
import { ClassicError, invalid } from './classic-error.ts';
import type { ClassicSession } from './session.ts';
import { toClassic, toLocal, type RemoteValue } from './values.ts';

interface Evaluated {
  type: 'success' | 'exception';
  result: RemoteValue;
  exceptionDetails?: { text: string };
}

async function run(
  session: ClassicSession,
  body: Record<string, unknown>,
  wrap: (script: string) => string,
): Promise<unknown> {
  const { script, args } = body;
  if (typeof script !== 'string') throw invalid('"script" must be a text');
  if (!Array.isArray(args)) throw invalid('"args" must be a list');
  const given = (args as unknown[]).map((one) => toLocal(one, session));
  await session.top();
  const asked = session
    .send<Evaluated>('script.callFunction', {
      functionDeclaration: wrap(script),
      target: { context: session.frame },
      awaitPromise: true,
      arguments: given,
      serializationOptions: { maxDomDepth: 0 },
    })
    .catch((error: unknown) => {
      throw session.gone(error);
    });
  const { script: limit } = session.timeouts;
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, fail) => {
    if (limit === null) return;
    timer = setTimeout(() => fail(new ClassicError('script timeout', `Timed out after ${limit} ms`)), limit);
  });
  const told = await session.orPrompt(Promise.race([asked, late])).finally(() => clearTimeout(timer));
  // A dialog that the script opened: the script goes on once it is answered, and the test is told so by its next command.
  if (told === 'dialog') return null;
  if (told.type === 'exception')
    throw new ClassicError('javascript error', told.exceptionDetails?.text ?? 'the script threw');
  return toClassic(told.result, session);
}

/** Scripts of the test, in the page's own world. */
export const scriptCommands: Commands = {
  'execute script': (session, { body }) => run(session, body, (script) => `function () {\n${script}\n}`),
  'execute async script': (session, { body }) =>
    run(
      session,
      body,
      (script) =>
        `function (...given) { return new Promise((done, fail) => { try { (function () {\n${script}\n}).apply(window, [...given, done]); } catch (error) { fail(error); } }); }`,
    ),
};
