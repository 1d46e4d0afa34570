/**
 * Ties a browser process's own monotonic clock to the wall's. What was told can only be late: of all the lags seen, the
 * least is nearest to the truth, so each further event can only make it better.
 */
export class ProcessClock {
  private offset = Infinity;
  private exact = false;

  /** The browser itself said what the wall's clock showed. @param seconds its own; `wall` in ms */
  isAt(seconds: number, wall: number): void {
    this.offset = wall - seconds * 1000;
    this.exact = true;
  }

  /** The wall-clock ms of a moment that was heard of at `heard`. */
  wall(seconds: number | undefined, heard: number): number {
    if (seconds === undefined) return heard;
    const lag = heard - seconds * 1000;
    if (!this.exact && lag < this.offset) this.offset = lag;
    return Math.min(heard, seconds * 1000 + this.offset);
  }
}
