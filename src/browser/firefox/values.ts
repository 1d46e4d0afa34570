import { elementKey } from '../recording/commands.ts';
import { ClassicError, invalid } from './classic-error.ts';

/** Keys under which the classic protocol hands out what is no plain value. */
export const shadowKey = 'shadow-6066-11e4-a52e-4f735466cecf';
const windowKey = 'window-fcc6-11e5-b4f8-330a88ab9d7f';
const frameKey = 'frame-075b-4da1-b6ba-e579c2d3230a';

/** A value as BiDi tells it. */
export interface RemoteValue {
  type: string;
  value?: unknown;
  sharedId?: string;
  handle?: string;
  internalId?: string;
}

/** Remembers the nodes that were handed out: what was never handed out cannot be meant. */
export interface Nodes {
  hand(id: string): void;
  /** @throws ClassicError where nothing of the name was handed out */
  take(id: string, kind: 'element' | 'shadow root'): void;
}

const shadowRoot = 11;

/** A browser's value as a classic answer holds it. */
export function toClassic(told: RemoteValue, nodes: Nodes, within: ReadonlySet<string> = new Set()): unknown {
  const { type, value, sharedId, internalId } = told;
  switch (type) {
    case 'undefined':
    case 'null':
      return null;
    case 'string':
    case 'boolean':
    case 'date':
      return value;
    case 'number':
      return typeof value === 'number' ? value : value === '-0' ? 0 : null;
    case 'bigint':
      throw new ClassicError('javascript error', 'a BigInt cannot be told as JSON');
    case 'node':
      return nodeOf(told, nodes);
    case 'window':
      return { [windowKey]: (value as { context: string }).context };
    case 'array':
    case 'set':
    case 'nodelist':
    case 'htmlcollection': {
      if (value === undefined) throw cyclic(internalId, within);
      const inside = internalId ? new Set([...within, internalId]) : within;
      return (value as RemoteValue[]).map((one) => toClassic(one, nodes, inside));
    }
    case 'object':
    case 'map': {
      if (value === undefined) throw cyclic(internalId, within);
      const inside = internalId ? new Set([...within, internalId]) : within;
      const entries = value as [string | RemoteValue, RemoteValue][];
      return Object.fromEntries(
        entries
          .filter(([, one]) => one.type !== 'function' && one.type !== 'undefined')
          .map(([key, one]) => [typeof key === 'string' ? key : String(key.value), toClassic(one, nodes, inside)]),
      );
    }
    default:
      return sharedId ? nodeOf(told, nodes) : {};
  }
}

const cyclic = (id: string | undefined, within: ReadonlySet<string>): ClassicError =>
  new ClassicError(
    'javascript error',
    id && within.has(id) ? 'cyclic object value' : 'this value is nested too deep or twice in itself',
  );

function nodeOf({ sharedId, value }: RemoteValue, nodes: Nodes): unknown {
  if (!sharedId) return null;
  const { nodeType } = (value ?? {}) as { nodeType?: number };
  nodes.hand(sharedId);
  return { [nodeType === shadowRoot ? shadowKey : elementKey]: sharedId };
}

/** A classic argument as BiDi takes it. */
export function toLocal(value: unknown, nodes: Nodes, depth = 0): unknown {
  if (depth > 200) throw invalid('an argument is nested too deep');
  if (value === null || value === undefined) return { type: 'null' };
  if (typeof value === 'string' || typeof value === 'boolean' || typeof value === 'number')
    return { type: typeof value, value };
  if (Array.isArray(value)) return { type: 'array', value: value.map((one) => toLocal(one, nodes, depth + 1)) };
  const object = value as Record<string, unknown>;
  for (const [key, kind] of [
    [elementKey, 'element'],
    [shadowKey, 'shadow root'],
  ] as const) {
    const id = object[key];
    if (typeof id !== 'string') continue;
    nodes.take(id, kind);
    return { sharedId: id };
  }
  if (object[windowKey] !== undefined || object[frameKey] !== undefined)
    throw new ClassicError('unsupported operation', 'windows cannot be handed to a script here');
  return {
    type: 'object',
    value: Object.entries(object).map(([key, one]) => [key, toLocal(one, nodes, depth + 1)]),
  };
}
