/** Kinds of events that a page can make without end, and what begins one of them. */
const kinds = {
  requests: { events: /^(?:network\.|goog:cdp\.Network\.)/, begins: /RequestSent$|webSocketCreated$/ },
  'console lines': { events: /^log\./, begins: /^log\.entryAdded$/ },
} as const;

export type FloodKind = keyof typeof kinds;
const all = Object.keys(kinds) as FloodKind[];

/** So many of a kind within the time are no test's any more: 100 a second, half a minute long. */
export const most = 3000;
export const withinMs = 30_000;

/** The kind of an event; nothing for one of which there is no flood. */
export const floodKind = (method: string): FloodKind | undefined => all.find((kind) => kinds[kind].events.test(method));

/**
 * Tells when a page makes more of something than anybody will look at: hearing of it costs the browser, and all that runs
 * beside it, as much as making it.
 */
export class Floods {
  private readonly counts = new Map<FloodKind, { from: number; count: number }>();
  /** Kinds that are not heard any more. */
  readonly over = new Set<FloodKind>();

  /** An event came. @param at ms. @returns the kind that is a flood from now on; nothing mostly */
  comes(method: string, kind: FloodKind, at: number): FloodKind | undefined {
    if (this.over.has(kind) || !kinds[kind].begins.test(method)) return undefined;
    const known = this.counts.get(kind);
    if (!known || at - known.from > withinMs) {
      this.counts.set(kind, { from: at, count: 1 });
      return undefined;
    }
    if (++known.count < most) return undefined;
    this.over.add(kind);
    return kind;
  }

  /** Another page: all is heard again. @returns what was not */
  begin(): FloodKind[] {
    const were = [...this.over];
    this.over.clear();
    this.counts.clear();
    return were;
  }
}
