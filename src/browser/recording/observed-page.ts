import { background } from '../../core/background.ts';
import type { Circumstances, ElementState } from '../../core/evidence/event.ts';
import { maskMark } from '../../core/evidence/masking.ts';
import type { ObserverRecord } from '../observer/source.ts';
import type { TypedValues } from './typed-values.ts';
import type { Unnumbered } from './unnumbered.ts';

/** Most changes kept of a locator that the test has not asked for yet; of more, the last. */
const mostEarly = 400;

/** The attempt that what a page tells belongs to. */
export interface PageOwner {
  readonly id: string;
  readonly typing: TypedValues;
  /** By key of a locator that is expected: what became of it so far. */
  readonly early: Map<string, Unnumbered[]>;
  /** Picture pixels to one CSS pixel. */
  ratio: number;
  add(event: Unnumbered): string;
  relative(wall: number): number;
  typedSoFar(text: string): string;
  circumstances(found: Circumstances, at: number, context?: string): void;
  /** Told what scripts in a page did to it, where that is asked for. */
  onScripted?: ((record: Extract<ObserverRecord, { k: 'scripted' }>, context: string) => void) | undefined;
  structure(record: { t: number; x: string; u: string; n: number }, context: string): Promise<void>;
}

/** Turns what the in-page observer tells into evidence. */
export class ObservedPage {
  private readonly nodes = new Map<string, number>();

  constructor(private readonly recorder: PageOwner) {}

  observe(record: ObserverRecord, context: string, realm: string): void {
    const base = { clock: 'page', at: record.t };
    switch (record.k) {
      case 'element': {
        const state = this.named(record.s as unknown as ElementState, realm);
        const type = state.attrs?.type;
        const isSecret = record.h === true || type === 'password' || /password/.test(state.attrs?.autocomplete ?? '');
        if (state.node !== null) this.recorder.typing.know(record.l, isSecret);
        const event = {
          ...base,
          lane: 'element',
          kind: record.e,
          data: {
            locator: record.l,
            label: state.name ?? '',
            context,
            state,
            ...(record.c ? { changed: record.c } : {}),
          },
        } as Unnumbered;
        const early = this.recorder.early.get(record.l);
        if (!early) this.recorder.add(event);
        else if (early.push(event) > mostEarly) early.shift();
        break;
      }
      case 'mutations':
        this.recorder.add({
          ...base,
          until: record.u,
          lane: 'page',
          kind: 'mutations',
          data: { count: record.n, context },
        });
        break;
      case 'title':
        this.recorder.add({ ...base, lane: 'page', kind: 'title', data: { title: record.x, context } });
        break;
      case 'press':
        this.recorder.add({
          ...base,
          lane: 'page',
          kind: 'press',
          data: {
            x: record.x,
            y: record.y,
            label: record.d,
            box: record.b,
            context,
            ...(record.f === undefined ? {} : { offset: record.f }),
          },
        });
        break;
      case 'view':
        this.recorder.ratio = record.r;
        break;
      case 'circumstances':
        this.recorder.circumstances(record.x, record.t, context);
        break;
      case 'structure':
        background('keeping a structure', this.recorder.structure(record, context), this.recorder.id);
        break;
      case 'focus':
        this.recorder.add({ ...base, lane: 'page', kind: 'focus', data: { label: record.d, context } });
        break;
      case 'held':
        if (record.v === maskMark) this.recorder.typing.secretAt(this.recorder.relative(record.t));
        // A secret that is being typed stands in its field by half.
        this.recorder.add({
          ...base,
          lane: 'page',
          kind: 'held-value',
          data: { label: record.d, text: this.recorder.typedSoFar(record.v), context },
        });
        break;
      case 'scripted':
        this.recorder.onScripted?.(record, context);
        break;
      case 'suppressed':
        this.recorder.add({
          ...base,
          lane: 'console',
          kind: 'exception',
          data: {
            level: 'error',
            text: record.x,
            suppressed: true,
            context,
            ...(record.s ? { source: record.s } : {}),
            ...(record.r ? { stack: record.r } : {}),
          },
        });
        break;
      case 'secret':
        if (record.w !== undefined) this.recorder.typing.unlearn(record.w);
        this.recorder.typing.learn(record.v);
        break;
      case 'shift':
        this.recorder.add({ ...base, lane: 'page', kind: 'layout-shift', data: { value: record.n, context } });
        break;
    }
  }

  /** Node numbers are counted per document in the page; here each node gets one of the attempt. */
  private named(state: ElementState, realm: string): ElementState {
    if (state.node === null) return state;
    const key = `${realm}/${state.node}`;
    let number = this.nodes.get(key);
    if (number === undefined) this.nodes.set(key, (number = this.nodes.size + 1));
    return { ...state, node: number };
  }
}
