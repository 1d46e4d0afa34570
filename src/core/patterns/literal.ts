/**
 * A text as a regular expression that fits it and nothing else.
 * @example new RegExp(literal('€ 4.50 (child)')).test('€ 4.50 (child)') // true
 */
export const literal = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
