/** Shorter values are settings of a page and no tickets; so are words, dates and what is written as a structure. */
const shortest = 12;
const mostAtOnce = 50;

const looksLikeTicket = (value: string): boolean =>
  value.length >= shortest && /\d/.test(value) && /[A-Za-z]/.test(value) && !/[\s:{}",]/.test(value);

/**
 * Values in a header of cookies that may be tickets of a session.
 * @param text `name=value; name=value`, or `name=value; Path=/`, several by line
 */
export function cookieTickets(text: string): string[] {
  const values = text.split(/[;\n]/, 200).flatMap((part) => {
    const at = part.indexOf('=');
    return at < 0
      ? []
      : [
          part
            .slice(at + 1)
            .trim()
            .replace(/^"|"$/g, ''),
        ];
  });
  return values
    .flatMap((value) => (value.includes('%') ? [value, decoded(value)] : [value]))
    .filter(looksLikeTicket)
    .slice(0, mostAtOnce);
}

function decoded(value: string): string {
  try {
    return decodeURIComponent(value);
  } catch {
    return value;
  }
}

/** What a script that asks for cookies answers, without what they hold. @param mark stands for each value */
export const withoutCookieValues = (answer: string, mark: string): string =>
  answer.replace(/(^|;\s{0,5})([^=;\s]{1,200})=[^;]*/g, `$1$2=${mark}`);
