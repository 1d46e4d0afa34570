import { endOf } from '../evidence/event.ts';
import { pathOf, said, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { gaveUpAt, waitOf } from './scene.ts';

/** How long after a page's own script wrote the address of the next one its arrival still belongs to it, ms. */
const soonMs = 1500;

/** The test looked while another page was on its way: asked for before, there only after. */
export const pageOnTheWay: ClueKind = {
  code: 'page-on-the-way',
  about: 'A navigation was under way, or began right after, when the test looked.',
  find: (scene) => {
    const { failing } = scene;
    const until = gaveUpAt(scene);
    if (!failing || until === undefined || waitOf(scene)) return [];
    const context = failing.data.context;
    const here = scene.page.filter(
      ({ data }) => context === undefined || data.context === undefined || data.context === context,
    );
    // A page that goes to another window leaves this one where it is.
    const elsewhere = (address: string): boolean =>
      scene.page.some(
        ({ data }) =>
          data.address === address && context !== undefined && data.context !== undefined && data.context !== context,
      );
    const asked = scene.network.find(
      (one) =>
        one.data.type === 'document' &&
        one.at < failing.at &&
        endOf(one) > endOf(failing) &&
        (context === undefined || one.data.context === context) &&
        !elsewhere(one.data.url),
    );
    const committed = here.find(
      (event) => event.kind === 'navigation-committed' && event.at > failing.at && event.at < until + soonMs,
    );
    const opened =
      committed &&
      scene.steps.some(
        (step) =>
          (step.data.action === 'open' || step.data.action === 'navigate') &&
          step.at >= failing.at &&
          step.at < committed.at,
      );
    const later = asked ?? (opened ? undefined : committed);
    if (!later) return [];
    const address = 'url' in later.data ? later.data.url : (later.data.address ?? '');
    return [
      {
        at: failing.at,
        until: asked ? endOf(asked) : later.at,
        summary: `${said(failing.data.label)} came while ${shorten(pathOf(address), 32)} was on its way`,
        strength: 1,
        evidence: [failing.id, later.id],
      },
    ];
  },
};
