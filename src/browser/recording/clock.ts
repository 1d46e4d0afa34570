/** Wall clock in ms with fractions, from the steady clock, so that durations never run backwards. */
export const clock = (): number => performance.timeOrigin + performance.now();
