import type { DrillLocator, Statement } from '../drill/drill.ts';
import { treeAt } from '../evidence/documents.ts';
import type { StepEvent } from '../evidence/event.ts';
import { quote, said } from '../evidence/labels.ts';
import { segmentAt } from '../evidence/lifelines.ts';
import { inside, type Tree, type TreeElement } from '../evidence/markup.ts';
import { markupName } from '../failures/markup.ts';
import { readMessage } from '../failures/message.ts';
import type { Adviser } from './advice.ts';
import { shownStep } from './case.ts';
import { commandOf, momentAt } from './told.ts';

/** What lies over a page may come several times over; so many are put away. */
const mostPutAway = 3;
const mostLevels = 4;
/** What people press to have done with something that came up. */
const closing =
  /^(?:[x×✕✖⨯]|close|dismiss|hide|skip|later|ok|okay|got it|no,? thanks|no thank you|not now|maybe later)\.?$/i;
const closingName = /(?:^|[-_ ])(?:close|dismiss|later|skip)(?:$|[-_ ])/i;

/** What lies over the target has something to put it away by: do that first, where it is there. */
export const putAway: Adviser = ({ subject, step, markup }) => {
  if (!step) return [];
  const moment = momentAt(subject, step);
  const line = step.locator === undefined ? undefined : subject.evidence.lifelines.get(step.locator);
  const cover =
    step.reached ?? (line && segmentAt(line, moment.at)?.state.coveredBy) ?? refusedFor(commandOf(subject, step));
  const tree = cover && treeAt(subject.evidence, commandOf(subject, step)?.data.context, moment.at, markup);
  const found = tree && closerOf(tree, cover);
  if (!found) return [];
  const target = { locator: found.locator };
  const away: Statement = {
    do: 'when',
    that: { kind: 'there', target },
    then: { do: 'press', target },
  };
  return [
    {
      kind: 'step',
      text: `Before ${said(step.label)}, put ${quote(cover)} away by ${quote(found.words)}, where it is there`,
      because: `${quote(cover)} lay over it here, and has that to put it away by`,
      passing: null,
      failing: [1, 1],
      shown: [shownStep(moment)],
      change: { at: step.events, change: { do: 'put before', statements: Array<Statement>(mostPutAway).fill(away) } },
    },
  ];
};

/** What the browser named when it would not press. */
function refusedFor(command: StepEvent | undefined): string | undefined {
  const named = command?.data.error && readMessage(command.data.error.message).obstructing;
  return named && markupName(named);
}

/** What puts a cover away: in it, or in what it is a part of. */
function closerOf(tree: Tree, cover: string): { locator: DrillLocator; words: string } | undefined {
  // It may be told with the words it says.
  let around: TreeElement | undefined = tree.find(cover.split(' “', 1)[0]!)[0];
  for (let level = 0; around && level < mostLevels; level++, around = around.parent) {
    if (around.tag === 'body' || around.tag === 'main' || around.tag === 'html') return undefined;
    const pressable = inside(around).filter(isPressable);
    // A notice has one thing to press, whatever that says.
    const only = isNotice(around) && pressable.length === 1 ? pressable[0] : undefined;
    const closer = pressable.find(closes) ?? only;
    if (!closer) continue;
    const [css, scope] = [cssOf(closer) ?? closer.tag, cssOf(around)];
    for (const value of scope ? [css, `${scope} ${css}`] : [css]) {
      // Several of the kind are put away one after the other.
      const all = tree.find(value);
      if (all[0] && all.every((one) => one === only || closes(one)))
        return { locator: { by: 'css', value }, words: closer.text || value };
    }
  }
  return undefined;
}

const isPressable = ({ tag, attrs }: TreeElement): boolean =>
  tag === 'button' || tag === 'a' || attrs.role === 'button';

const isNotice = ({ tag, attrs }: TreeElement): boolean => tag === 'dialog' || /dialog|^alert$/.test(attrs.role ?? '');

function closes(element: TreeElement): boolean {
  const { attrs, text } = element;
  if (!isPressable(element)) return false;
  const names = Object.entries(attrs).flatMap(([name, value]) =>
    /^(?:class|id|name|data-)/.test(name) ? [`${name} ${value}`] : [],
  );
  return (
    [text, attrs['aria-label'], attrs.title].some((one) => closing.test(one?.trim() ?? '')) ||
    names.some((one) => closingName.test(one))
  );
}

/** An element by what it is named for; nothing for one without any name. */
function cssOf({ tag, attrs }: TreeElement): string | undefined {
  const name = /^[A-Za-z][\w-]*$/;
  if (attrs.id && name.test(attrs.id)) return `#${attrs.id}`;
  const data = Object.keys(attrs).find((one) => /^data-[a-z][a-z0-9-]*$/.test(one) && !/^data-(?:v-|react)/.test(one));
  if (data)
    return /^[\w-]*$/.test(attrs[data]!)
      ? `${tag}[${data}${attrs[data] ? `="${attrs[data]}"` : ''}]`
      : `${tag}[${data}]`;
  const kind = (attrs.class ?? '').split(/\s+/).find((one) => name.test(one));
  if (kind) return `${tag}.${kind}`;
  return attrs['aria-label'] && !/["\\]/.test(attrs['aria-label'])
    ? `${tag}[aria-label="${attrs['aria-label']}"]`
    : undefined;
}
