import { holds } from '../../core/drill/compare.ts';
import type { Condition } from '../../core/drill/drill.ts';
import { printCondition, printValue } from '../../core/drill/print.ts';
import { clock } from '../recording/clock.ts';
import type { Hears } from './hears.ts';
import type { DrillPage } from './page.ts';
import { WireFault } from './wire.ts';

/** Errors during which a wait goes on trying. */
const passing = new Set(['no such element', 'stale element reference', 'element not interactable', 'no such alert']);
/** Two looks at a place that are closer than this say nothing. */
const stillMs = 90;

export interface Judgement {
  ok: boolean;
  expected: string;
  actual: string;
}

/** Whether what a drill checks or waits for is so. */
export class Conditions {
  /** When the drill last did something, on the recorder's clock. */
  since = 0;
  private readonly places = new Map<string, { at: number; place: string }>();

  constructor(
    private readonly page: DrillPage,
    private readonly hears: Hears | undefined,
  ) {}

  /** Another wait begins: what was seen before it says nothing. */
  begin(): void {
    this.places.clear();
  }

  /** While an element is not there yet a wait goes on. @throws WireFault for what no waiting mends */
  async met(until: Condition): Promise<boolean> {
    try {
      return await this.look(until);
    } catch (error) {
      if (error instanceof WireFault && passing.has(error.code)) return false;
      throw error;
    }
  }

  /** Right now: a dialog that is not open says nothing. @throws WireFault also for an element that is not there */
  async isSo(that: Condition): Promise<boolean> {
    try {
      return (await this.judge(that)).ok;
    } catch (error) {
      if (error instanceof WireFault && error.code === 'no such alert') return false;
      throw error;
    }
  }

  /** With what was expected and what was there instead. */
  async judge(that: Condition): Promise<Judgement> {
    if (that.kind === 'value') {
      const actual = await this.page.read(that.subject);
      const value = this.page.text(that.value);
      const expected = that.comparison === 'is' ? value : `${that.comparison} ${printValue(value)}`;
      return { ok: holds(actual, that.comparison, value), expected, actual };
    }
    const ok = await this.met(that);
    return { ok, expected: printCondition(that), actual: ok ? 'so' : 'not so' };
  }

  private async look(until: Condition): Promise<boolean> {
    const { page } = this;
    switch (until.kind) {
      case 'there':
        return Boolean(await page.element(until.target));
      case 'gone':
        return 'name' in until.target ? this.isGone(until.target.name) : (await page.count(until.target)) === 0;
      case 'still':
        return this.isStill(until);
      case 'script':
        return Boolean(await page.script(until.script, until.arguments));
      case 'value':
        return holds(await page.read(until.subject), until.comparison, page.text(until.value));
      case 'answered':
        return this.ears().answered(until.request, this.since);
      case 'said':
        return this.ears().said(until.text, this.since);
      case 'quiet':
        return this.ears().quietMs(clock()) >= until.forMs;
      case 'either':
        for (const one of until.of) if (await this.met(one)) return true;
        return false;
    }
  }

  private async isGone(name: string): Promise<boolean> {
    try {
      await this.page.onElement({ name }, 'GET', 'name');
      return false;
    } catch (error) {
      if (error instanceof WireFault && error.code === 'stale element reference') return true;
      throw error;
    }
  }

  private async isStill(until: Extract<Condition, { kind: 'still' | 'there' | 'gone' }>): Promise<boolean> {
    const place = JSON.stringify(await this.page.placeOf(until.target));
    const key = printCondition(until);
    const before = this.places.get(key);
    if (before?.place === place) return clock() - before.at >= stillMs;
    this.places.set(key, { at: clock(), place });
    return false;
  }

  private ears(): Hears {
    if (!this.hears)
      throw new Error('this engine does not tell what is answered or said; wait for what the page shows');
    return this.hears;
  }
}
