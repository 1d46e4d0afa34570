import { inject, type ComputedRef, type InjectionKey } from 'vue';
import type { StopLane } from '../../core/scaffold/crowd.ts';
import type { ElasticScale } from '../../core/scaffold/elastic.ts';
import type { Column } from './columns.ts';

/** What every pole of one scaffold shares: the scale, where its column stands, what is in sight. */
export interface ScaffoldRoom {
  scale: ComputedRef<ElasticScale>;
  column: (key: Column['key']) => Column;
  inSight: <T extends { top: number; height?: number }>(list: readonly T[]) => T[];
  /** As `inSight`, of words: they rest while one zooms in one go, and are back as soon as it stops. */
  words: <T extends { top: number; height?: number }>(list: readonly T[]) => T[];
  /** What is drawn, a little more than what is seen: pixels of the scaffold. */
  sight: ComputedRef<{ from: number; height: number }>;
  isEvidence: (id: string) => boolean;
  /** Too much of a lane is in sight to draw it one by one: a summary stands for it. */
  crowded: (lane: StopLane) => boolean;
}

export const scaffoldRoom: InjectionKey<ScaffoldRoom> = Symbol('scaffold');

/** The room of the scaffold a pole stands in. @throws Error outside of one */
export function useRoom(): ScaffoldRoom {
  const room = inject(scaffoldRoom);
  if (!room) throw new Error('a pole stands only in a scaffold');
  return room;
}

export const px = (pixels: number): string => `${Math.round(pixels * 10) / 10}px`;
