/** The keys of the WebDriver specification, section "Keyboard actions", that have no character of their own. */
const keys: Readonly<Record<string, string>> = {
  '\uE000': 'Nothing',
  '\uE001': 'Cancel',
  '\uE002': 'Help',
  '\uE003': 'Backspace',
  '\uE004': 'Tab',
  '\uE005': 'Clear',
  '\uE006': 'Return',
  '\uE007': 'Enter',
  '\uE008': 'Shift',
  '\uE009': 'Control',
  '\uE00A': 'Alt',
  '\uE00B': 'Pause',
  '\uE00C': 'Escape',
  '\uE00D': 'Space',
  '\uE00E': 'Page up',
  '\uE00F': 'Page down',
  '\uE010': 'End',
  '\uE011': 'Home',
  '\uE012': 'Arrow left',
  '\uE013': 'Arrow up',
  '\uE014': 'Arrow right',
  '\uE015': 'Arrow down',
  '\uE016': 'Insert',
  '\uE017': 'Delete',
  '\uE018': 'Semicolon',
  '\uE019': 'Equals',
  '\uE03D': 'Meta',
  '\uE040': 'Zenkaku Hankaku',
  '\uE050': 'Right shift',
  '\uE051': 'Right control',
  '\uE052': 'Right alt',
  '\uE053': 'Right meta',
  '\uE054': 'Page up',
  '\uE055': 'Page down',
  '\uE056': 'End',
  '\uE057': 'Home',
  '\uE058': 'Arrow left',
  '\uE059': 'Arrow up',
  '\uE05A': 'Arrow right',
  '\uE05B': 'Arrow down',
  '\uE05C': 'Insert',
  '\uE05D': 'Delete',
};
for (let i = 0; i < 10; i++) (keys as Record<string, string>)[String.fromCharCode(0xe01a + i)] = `Number pad ${i}`;
for (const [i, sign] of [...'*+,-./'].entries())
  (keys as Record<string, string>)[String.fromCharCode(0xe024 + i)] = `Number pad ${sign}`;
for (let i = 1; i <= 12; i++) (keys as Record<string, string>)[String.fromCharCode(0xe030 + i)] = `F${i}`;

const modifiers: ReadonlySet<string> = new Set([
  '\uE008',
  '\uE009',
  '\uE00A',
  '\uE03D',
  '\uE050',
  '\uE051',
  '\uE052',
  '\uE053',
]);
export const isModifier = (key: string): boolean => modifiers.has(key);
/** Lets go of all modifiers. */
export const allReleased = '\uE000';

/** A stretch of what was typed: characters as they are, or a key with its modifiers, so many times. */
export type Typed = { text: string } | { key: string; times: number };

/** Whether a text holds keys that have no character. */
export const holdsKeys = (text: string): boolean => /[\uE000-\uE05D]/.test(text);

/** What a text sends, as characters and named keys: the same key again and again is told once, with how often. */
export function typedParts(text: string): Typed[] {
  const out: Typed[] = [];
  let held: string[] = [];
  /** Whether a key came since the last modifier. */
  let used = false;
  for (const char of text) {
    const name = keys[char];
    if (modifiers.has(char)) {
      if (held.includes(name!) && !used) out.push({ key: held.join('+'), times: 1 });
      held = held.includes(name!) ? held.filter((one) => one !== name) : [...held, name!];
      used = false;
    } else if (char === allReleased) {
      held = [];
    } else if (name === undefined && held.length === 0) {
      const last = out.at(-1);
      if (last && 'text' in last) last.text += char;
      else out.push({ text: char });
    } else {
      used = true;
      const key = [...held, name ?? char].join('+');
      const last = out.at(-1);
      if (last && 'key' in last && last.key === key) last.times++;
      else out.push({ key, times: 1 });
    }
  }
  // A modifier pressed by itself is all that was sent.
  if (!used && held.length) out.push({ key: held.join('+'), times: 1 });
  return out;
}

/** Keys by name, characters in quotes: `“Ada”, Arrow down ×5, Enter`. */
export function keyWords(text: string, shorten: (text: string) => string = (all) => all): string {
  return typedParts(text)
    .map((part) =>
      'text' in part ? `“${shorten(part.text)}”` : part.times > 1 ? `${part.key} ×${part.times}` : part.key,
    )
    .join(', ');
}

/** The same in one line of text without quotes, for values: `Ada [Arrow down ×5] [Enter]`. */
export function keysWritten(text: string): string {
  if (!holdsKeys(text)) return text;
  return typedParts(text)
    .map((part) => ('text' in part ? part.text : `[${part.key}${part.times > 1 ? ` ×${part.times}` : ''}]`))
    .join(' ');
}

const byName = new Map(Object.entries(keys).map(([char, name]) => [name.toLowerCase(), char]));
/** The first of two keys of the same name is the one meant. */
for (const [char, name] of Object.entries(keys).reverse()) byName.set(name.toLowerCase(), char);
const mostTimes = 1000;
const mostWords = 10_000;

/**
 * Reads keys by name, as `keyWords` writes them: chords joined by `+`, several parted by commas, `×5` or `x5` for the
 * same again, characters between “ and ”: `“Ada”, Control+A, Arrow down ×5, Enter`.
 * @returns the text to send, each chord let go of at its end, or what cannot be read
 */
export function keysNamed(words: string): string | { problem: string } {
  if (words.length > mostWords) return { problem: `at most ${mostWords} characters` };
  let out = '';
  for (let at = 0; at < words.length;) {
    const quote = words[at] === '“' ? words.indexOf('”', at) : -1;
    if (quote > 0) {
      out += words.slice(at + 1, quote);
      at = quote + 1;
      continue;
    }
    const comma = words.indexOf(',', at);
    const end = comma < 0 ? words.length : comma;
    const open = words.slice(at + 1, end).indexOf('“');
    const until = open < 0 ? end : at + 1 + open;
    const part = words.slice(at, until).trim();
    if (part) {
      const chord = chordNamed(part);
      if (typeof chord !== 'string') return chord;
      out += chord;
    }
    at = open < 0 ? end + 1 : until;
  }
  return out || { problem: 'no keys are named here' };
}

function chordNamed(chord: string): string | { problem: string } {
  const [, times] = /[×x] ?(\d{1,4})$/u.exec(chord) ?? [];
  const written = times === undefined ? chord : chord.slice(0, chord.lastIndexOf(/×/.test(chord) ? '×' : 'x')).trim();
  const names = written === '+' ? ['+'] : written.split('+');
  const chars: string[] = [];
  for (const name of names.map((one) => one.trim())) {
    const char = byName.get(name.toLowerCase()) ?? (Array.from(name).length === 1 ? name : undefined);
    if (char === undefined)
      return { problem: `“${name}” is no key; keys are called Enter, Tab, Escape, Arrow down, Control+A …` };
    chars.push(char);
  }
  if (chars.slice(0, -1).some((char) => !isModifier(char)))
    return { problem: `only Shift, Control, Alt and Meta are held: “${written}”` };
  if (Number(times ?? 1) > mostTimes) return { problem: `at most ${mostTimes} times` };
  const held = chars.length > 1 || isModifier(chars[0]!);
  return (chars.join('') + (held ? allReleased : '')).repeat(Number(times ?? 1));
}
