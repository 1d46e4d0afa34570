/**
 * Some reports tell one time for a whole suite, and some of those tell the time they were written and
 * not the time the suite began. Files whose attempt is known by name say when it really was: each
 * allows the shifts that put its time inside its attempt, and the shift most of them allow is taken.
 */
export interface Allowed {
  from: number;
  until: number;
}

/** Shifts smaller than this are within what adding up durations leaves uncertain. */
const noticeable = 500;
/** A suite is written down when it is over; files that are days away were copied, or belong elsewhere. */
const mostShift = 24 * 3_600_000;

/**
 * @returns ms to add to the report's times; 0 when its own times explain as much, or too little is known
 */
export function reportShift(told: readonly Allowed[]): number {
  const allowed = told.filter(({ from, until }) => from <= mostShift && until >= -mostShift);
  if (allowed.length < 2) return 0;
  const satisfied = (shift: number): number =>
    allowed.filter(({ from, until }) => shift >= from && shift <= until).length;
  let best = { from: 0, until: 0, count: satisfied(0) };
  // The fullest place begins where some interval begins.
  for (const { from } of allowed) {
    const count = satisfied(from);
    if (count <= best.count) continue;
    const until = Math.min(...allowed.filter((one) => from >= one.from && from <= one.until).map((one) => one.until));
    best = { from, until, count };
  }
  const shift = (best.from + best.until) / 2;
  return best.count >= 2 && best.count >= allowed.length * 0.6 && Math.abs(shift) >= noticeable ? shift : 0;
}
