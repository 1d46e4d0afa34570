/**
 * The Wilson score interval for a proportion (E. B. Wilson, "Probable inference, the law of
 * succession, and statistical inference", JASA 22, 1927). It stays inside 0…1 and is honest for
 * few trials and for rates at the ends, where the plain normal interval is not.
 *
 * @param hits how many of the trials had the property; a whole number, 0…trials
 * @param trials how many trials; a whole number, 0 gives the interval 0…1
 * @param z standard normal quantile; 1.96 is 95 % two-sided
 * @throws RangeError when the counts are not whole or do not fit each other
 * @example wilson(3, 40) // { point: 0.075, low: 0.0258…, high: 0.1986… }
 */
export function wilson(hits: number, trials: number, z = 1.959963984540054): Rate {
  if (!Number.isInteger(hits) || !Number.isInteger(trials) || hits < 0 || trials < hits) {
    throw new RangeError(`wilson takes whole counts with 0 ≤ hits ≤ trials, got ${hits} of ${trials}`);
  }
  if (trials === 0) return { point: 0, low: 0, high: 1 };
  const p = hits / trials;
  const z2 = z * z;
  const middle = (p + z2 / (2 * trials)) / (1 + z2 / trials);
  const half = (z / (1 + z2 / trials)) * Math.sqrt((p * (1 - p)) / trials + z2 / (4 * trials * trials));
  // At the ends the interval reaches the end exactly; rounding must not move it inside.
  return {
    point: p,
    low: hits === 0 ? 0 : Math.max(0, middle - half),
    high: hits === trials ? 1 : Math.min(1, middle + half),
  };
}

export interface Rate {
  point: number;
  low: number;
  high: number;
}
