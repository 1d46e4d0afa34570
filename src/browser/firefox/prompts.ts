import type { Commands } from './command.ts';
import { ClassicError, invalid } from './classic-error.ts';
import type { ClassicSession } from './session.ts';

function open(session: ClassicSession): NonNullable<ClassicSession['prompt']> {
  const { prompt } = session;
  if (!prompt) throw new ClassicError('no such alert', 'no dialog is open');
  return prompt;
}

async function answer(session: ClassicSession, accept: boolean): Promise<null> {
  await session.top();
  const { text } = open(session);
  await session.send('browsingContext.handleUserPrompt', {
    context: session.window,
    accept,
    ...(accept && text !== undefined ? { userText: text } : {}),
  });
  session.prompts.delete(session.window);
  await session.settle();
  return null;
}

/** Dialogs that a page opened. */
export const promptCommands: Commands = {
  'accept alert': (session) => answer(session, true),
  'dismiss alert': (session) => answer(session, false),
  'get alert text': async (session) => {
    await session.top();
    return open(session).message;
  },
  'send alert text': async (session, { body }) => {
    await session.top();
    const prompt = open(session);
    if (typeof body.text !== 'string') throw invalid('"text" must be a text');
    if (prompt.type === 'alert' || prompt.type === 'confirm')
      throw new ClassicError('element not interactable', `a dialog of the kind ${prompt.type} takes no text`);
    if (prompt.type !== 'prompt')
      throw new ClassicError('unsupported operation', `a dialog of the kind ${prompt.type} takes no text`);
    prompt.text = body.text;
    return null;
  },
};
