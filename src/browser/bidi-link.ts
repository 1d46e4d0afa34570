/** What speaks BiDi with a browser, on a connection of its own or on one that others use, too. */
export interface BidiLink {
  send<R = Record<string, unknown>>(method: string, params: Record<string, unknown>): Promise<R>;
  /** Reads events that were put off. */
  catchUp(): void;
  close(): void;
}

export type BidiListener = (method: string, params: never, heard: number) => void;
