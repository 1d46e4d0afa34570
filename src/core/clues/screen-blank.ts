import type { ClueKind } from './clue.ts';
import { momentOf, type Scene } from './scene.ts';

/** The picture at the failure shows nothing, or what pages show while they load. */
export const screenBlank: ClueKind = {
  code: 'screen-blank',
  about: 'The screen was blank, or looked as pages do while they load, when it failed.',
  find: (scene) => {
    const found = scene.look?.findings.find(({ kind }) => kind === 'blank' || kind === 'loading');
    const moment = momentOf(scene);
    if (!found || !moment || sawWords(scene, moment.at)) return [];
    return [
      {
        at: scene.look!.at,
        summary: `When it failed the screen showed ${found.kind === 'blank' ? 'nothing: it was blank' : found.words}`,
        strength: found.kind === 'blank' ? 0.9 : 0.7,
        evidence: [scene.look!.event, ...moment.evidence.filter((id) => id !== scene.look!.event)],
      },
    ];
  },
};

/** The test itself had read words on the page by then: the picture is older than what it saw. */
function sawWords({ steps }: Scene, until: number): boolean {
  const opened = steps.findLast(({ data, at }) => (data.action === 'open' || data.action === 'navigate') && at < until);
  return steps.some(
    ({ data, at }) =>
      at > (opened?.at ?? -1) &&
      at < until &&
      data.subject === 'text' &&
      typeof data.result === 'string' &&
      data.result.trim() !== '',
  );
}
