import type { StepAction, StepData } from './event.ts';
import { holdsKeys, keyWords } from './keys.ts';
import { fileName, isFilePath } from './file-path.ts';
import { locatorText } from './locator.ts';

/** Cut a text for a label, at a word where one is near. */
export function shorten(text: string, most = 48): string {
  const line = text.replace(/\s+/g, ' ').trim();
  if (line.length <= most) return line;
  const cut = line.slice(0, most - 1);
  const space = cut.lastIndexOf(' ');
  return `${space > most * 0.6 ? cut.slice(0, space) : cut}…`;
}

/** A length of time as a person says it: `380 ms`, `1.4 s`. */
export const duration = (ms: number): string => (ms < 1000 ? `${Math.round(ms)} ms` : `${(ms / 1000).toFixed(1)} s`);

export const plural = (count: number, one: string, many = `${one}s`): string => `${count} ${count === 1 ? one : many}`;

export const quote = (text: string): string => `“${text}”`;

/** A step by its own sentence; in quotes only where it has none inside. */
export const said = (label: string): string => (label.includes('“') ? label : quote(label));

/** How a step's target is called: by what a person would see, else by its locator. */
export function targetName(step: StepData, name?: string): string {
  if (name) return quote(shorten(name, 40));
  return step.locator ? quote(shorten(locatorText(step.locator), 40)) : 'the element';
}

/** Plain text in quotes; keys that have no character by their names. */
const typedWords = (text: string): string =>
  holdsKeys(text) ? keyWords(text, (part) => shorten(part, 24)) : quote(shorten(text, 24));

type Sentence = (step: StepData, target: string) => string;

/** A function that is called right where it is written: what it is says enough. */
const calledWith = /^\((.{1,60})\)\.apply\((?:null, arguments|arguments\[0\], .{1,40})\)$/;

/** A longer script says nothing at a glance. */
const longestScript = 56;

const sentences: Partial<Record<StepAction, Sentence>> = {
  open: (step) => `Open ${shorten(pathOf(step.input ?? ''), 56)}`,
  find: (_step, target) => `Find ${target}`,
  press: (_step, target) => `Press on ${target}`,
  type: (step, target) =>
    isFilePath(step.input ?? '')
      ? `Choose file ${quote(shorten(fileName(step.input!), 24))} in ${target}`
      : `Type ${typedWords(step.input ?? '')} in ${target}`,
  clear: (_step, target) => `Clear ${target}`,
  read: (step, target) =>
    step.locator ? `Read ${step.subject ?? 'text'} of ${target}` : `Read the ${step.subject ?? 'page'}`,
  script: (step, target) => {
    const said = (step.input ?? '')
      .trim()
      .replace(/^return\s+/, '')
      .replace(calledWith, '$1');
    const on = step.locator ? ` on ${target}` : '';
    // Never cut: a secret across the cut would be left by half.
    return said && said.length <= longestScript && !said.includes('\n')
      ? `Run ${quote(said)}${on}`
      : `Run a script${on}`;
  },
  dialog: (step) => step.label,
};

/** The sentence of a step, given what its target is called on the page. */
export function stepLabel(step: StepData, name?: string): string {
  const sentence = sentences[step.action];
  return sentence ? sentence(step, targetName(step, name)) : step.label;
}

/** The path and query of an address, or the whole of it when it has none. */
export function pathOf(address: string): string {
  try {
    const url = new URL(address);
    return url.protocol.startsWith('http') ? `${url.pathname}${url.search}${url.hash}` : address;
  } catch {
    return address;
  }
}
