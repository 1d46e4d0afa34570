import { momentOf, type Scene } from './scene.ts';

/** What was found where something else was expected, if it says a certain kind of thing that the expected does not. */
export function pageSaid(
  scene: Scene,
  words: RegExp,
): { moment: NonNullable<ReturnType<typeof momentOf>>; text: string } | undefined {
  const { expected = '', actual = '' } = scene.failure ?? {};
  const moment = momentOf(scene);
  return moment && words.test(actual) && !words.test(expected) ? { moment, text: actual } : undefined;
}
