/** Control characters, with which a text could move the cursor, name the window or write over what stands there. */

const controls = /[\0-\x08\x0b-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069]/g;

/** A text that came from anywhere, as a terminal may show it. */
export const shown = (text: string): string => text.replace(/\r\n/g, '\n').replace(controls, '');

export const print = (text: string): void => console.log(shown(text));
export const complain = (text: string): void => console.error(shown(text));
