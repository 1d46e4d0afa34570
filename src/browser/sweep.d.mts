export const ownerVariable: string;
export function processesMarked(mark: string): number[];
export function sweep(mark: string, folder?: string): Promise<void>;
