import { RE2JS } from 're2js';

/**
 * A pattern that a person wrote: in masks, rules and drills. It runs on an engine that takes time in proportion to the
 * text whatever the pattern, so that nobody can write one that stands still (R. Cox, "Regular Expression Matching Can
 * Be Simple And Fast", 2007). What such an engine cannot do, looking around and referring back, it says in words.
 */
export interface LinearPattern {
  /** Whether the pattern fits somewhere in the text. */
  fits(text: string): boolean;
  /** The text with every fitting part replaced; `by` is taken as it is. */
  replace(text: string, by: string): string;
}

const longest = 500;

/** @throws RangeError in words when the pattern cannot be read, or cannot be run in linear time */
export function linearPattern(source: string): LinearPattern {
  if (source.length > longest) throw new RangeError(`a pattern may have ${longest} characters`);
  if (/\(\?<?[=!]|\\[1-9]/.test(source))
    throw new RangeError(
      'it looks around or refers back (“(?=”, “(?<”, “\\1”), which takes unbounded time; write what is to fit itself',
    );
  let compiled: RE2JS;
  try {
    compiled = RE2JS.compile(RE2JS.translateRegExp(source));
  } catch (error) {
    throw new RangeError(error instanceof Error ? error.message : 'it cannot be read');
  }
  return {
    fits: (text) => compiled.matcher(text).find(),
    // Most texts hold nothing that fits; asking first is much cheaper than replacing nothing.
    replace: (text, by) =>
      compiled.matcher(text).find() ? compiled.matcher(text).replaceAll(RE2JS.quoteReplacement(by)) : text,
  };
}
