import { heldAfter, holds, type Held } from '../evidence/held.ts';
import { quote, shorten, targetName } from '../evidence/labels.ts';
import { endOf, type StepEvent } from '../evidence/event.ts';
import { locatorKey } from '../evidence/locator.ts';
import { nameAt, segmentAt } from '../evidence/lifelines.ts';
import type { Clue, ClueKind } from './clue.ts';
import { lineOf, type Scene } from './scene.ts';

/** A field holds something else than was typed into it, and no action of the test made it so. */
export const typedNotHeld: ClueKind = {
  code: 'typed-not-held',
  about: 'The field does not hold what was typed into it.',
  find: (scene) =>
    scene.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      const elsewhere = wentElsewhere(scene, step);
      if (elsewhere) return [elsewhere];
      const held = heldAfter(scene, step);
      const typed = step.data.input ?? '';
      if (!held || holds(held.text, typed) || chosenSince(scene, step, held)) return [];
      const line = lineOf(scene, step);
      return [
        {
          at: step.at,
          until: held.at,
          summary: `${quote(shorten(typed, 24))} was typed in ${targetName(step.data, line && nameAt(line, step.at))}, which then held ${held.text ? quote(shorten(held.text, 24)) : 'nothing'}`,
          strength: 1,
          evidence: [step.id, held.event],
        },
      ];
    }),
};

/** Whether the test itself pressed what the field then held, as one does with a suggestion: chosen is not lost. */
function chosenSince(scene: Scene, typing: StepEvent, held: Held): boolean {
  if (!held.text) return false;
  return scene.steps.some((step) => {
    if (step.data.action !== 'press' || step.at <= typing.at || step.at > held.at) return false;
    const line = lineOf(scene, step);
    const pressed = line && segmentAt(line, step.at)?.state.text;
    return pressed !== undefined && pressed.includes(held.text);
  });
}

/** A page tells of what a field holds within this of the last key, ms. */
const toldWithinMs = 40;
const isField = (label: string): boolean => /^(?:input|textarea)\b/.test(label);

/** What a step typed by keys. A client that presses keys for what it pressed before is told to type there. */
function typedBy({ steps }: Scene, { at, data }: StepEvent): string {
  if (data.action === 'keys') return plainKeys(data.input ?? '');
  if (data.action !== 'type' || !data.locator || data.error) return '';
  const pressed = steps.findLast((one) => one.data.action === 'press' && one.at < at);
  return pressed?.data.locator && locatorKey(pressed.data.locator) === locatorKey(data.locator)
    ? (data.input ?? '')
    : '';
}

/** Keys go to whatever has the focus: when that moved on by itself after a field was pressed, another field has the text. */
function wentElsewhere(scene: Scene, step: StepEvent): Omit<Clue, 'code'> | undefined {
  const typed = typedBy(scene, step);
  if (typed.length < 2) return undefined;
  const pressed = scene.page.findLast(({ kind, at }) => kind === 'press' && at < step.at);
  const told = scene.page.findLast(
    ({ kind, at }) => kind === 'held-value' && at >= step.at && at <= endOf(step) + toldWithinMs,
  );
  const [meant, got] = [pressed?.data.label ?? '', told?.data.label ?? ''];
  if (!pressed || !told || !isField(meant) || !isField(got) || meant === got) return undefined;
  // The test may have gone to another field by keys of its own.
  if (scene.steps.some(({ at, data }) => at > pressed.at && at < step.at && data.action === 'keys')) return undefined;
  return {
    at: step.at,
    until: told.at,
    summary: `${quote(shorten(typed, 24))} went into ${got}; the test had pressed ${meant}`,
    strength: 1,
    evidence: [step.id, told.id, pressed.id],
  };
}

/** The characters that key actions press, as far as they are characters; none of a body that was cut or makes no sense. */
function plainKeys(input: string): string {
  try {
    const { actions } = JSON.parse(input) as { actions?: { actions?: { type?: string; value?: string }[] }[] };
    return (actions ?? [])
      .flatMap((source) => source?.actions ?? [])
      .flatMap((one) => (one?.type === 'keyDown' && one.value?.length === 1 ? [one.value] : []))
      .join('');
  } catch {
    return '';
  }
}
