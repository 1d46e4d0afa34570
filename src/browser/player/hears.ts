import type { EvidenceEvent } from '../../core/evidence/event.ts';

/** What a drill can wait for besides what the page itself answers. Times are those of the recorder's clock. */
export interface Hears {
  /** Whether an exchange whose method and address hold the text was answered since then. */
  answered(part: string, since: number): boolean;
  said(part: string, since: number): boolean;
  /** For how long nothing has been under way, ms. */
  quietMs(now: number): number;
  /** Contexts of windows, in the order in which they were opened. */
  opened(): readonly string[];
}

type Heard = Pick<EvidenceEvent, 'lane' | 'kind' | 'at' | 'until' | 'data'>;
const mostKept = 5000;

/** Listens to what a trial's recorder is told. */
export class TrialEars implements Hears {
  private heard: { at: number; text: string; lane: 'network' | 'console' }[] = [];
  private busyAt = 0;
  private readonly windows: string[] = [];

  constructor(private readonly underWay: () => number) {}

  hear({ lane, kind, at, until, data }: Heard): void {
    if (lane === 'network') {
      const { method, url, status } = data as { method: string; url: string; status?: number };
      if (status !== undefined) this.keep({ at: until ?? at, text: `${method} ${url}`, lane });
      this.busyAt = Math.max(this.busyAt, until ?? at);
    } else if (lane === 'console') this.keep({ at, text: (data as { text: string }).text, lane });
    else if (lane === 'window' && kind === 'opened' && this.windows.length < mostKept)
      this.windows.push((data as { context: string }).context);
  }

  private keep(one: (typeof this.heard)[number]): void {
    this.heard.push(one);
    if (this.heard.length > mostKept) this.heard = this.heard.slice(-mostKept / 2);
  }

  private has(lane: 'network' | 'console', part: string, since: number): boolean {
    return this.heard.some((one) => one.lane === lane && one.at >= since && one.text.includes(part));
  }
  answered(part: string, since: number): boolean {
    return this.has('network', part, since);
  }
  said(part: string, since: number): boolean {
    return this.has('console', part, since);
  }
  opened(): readonly string[] {
    return this.windows;
  }
  quietMs(now: number): number {
    if (this.underWay() > 0) this.busyAt = now;
    return now - this.busyAt;
  }
}
