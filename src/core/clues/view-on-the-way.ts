import { arrivedAt, endOf } from '../evidence/event.ts';
import { pathOf, said, shorten } from '../evidence/labels.ts';
import { requestKey } from '../contrast/sketch.ts';
import type { ClueKind } from './clue.ts';
import { acting, waitOf } from './scene.ts';

/** A page that changes its address by itself has gone to another view: what stands there is still the old one. */
export const viewOnTheWay: ClueKind = {
  code: 'view-on-the-way',
  about:
    'The page had changed its address without loading anew, and the view that belongs to it was still being fetched.',
  find: (scene) => {
    const { failing } = scene;
    if (!failing || waitOf(scene)) return [];
    const acted = scene.steps.findLast((step) => step.at < failing.at && acting(step));
    const changed =
      acted &&
      scene.page.findLast((event) => event.kind === 'fragment' && event.at > acted.at && event.at <= failing.at);
    if (!changed) return [];
    const request = scene.network.find(
      (one) => one.data.own && one.at >= acted.at && one.at <= failing.at && arrivedAt(one) > endOf(failing),
    );
    if (!request) return [];
    return [
      {
        at: failing.at,
        until: arrivedAt(request),
        summary: `${said(failing.data.label)} came after the page had gone to ${shorten(pathOf(changed.data.address ?? ''), 28)} and before ${requestKey(request)} had brought its view`,
        strength: 1,
        evidence: [failing.id, changed.id, request.id],
      },
    ];
  },
};
