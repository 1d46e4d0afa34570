import { inject, type ComputedRef, type InjectionKey } from 'vue';
import type { ElasticScale } from '../../core/scaffold/elastic.ts';
import type { Column } from './columns.ts';

/** What every pole of one scaffold shares: the scale, where its column stands, what is in sight. */
export interface ScaffoldRoom {
  scale: ComputedRef<ElasticScale>;
  column: (key: Column['key']) => Column;
  inSight: <T extends { top: number; height?: number }>(list: readonly T[]) => T[];
  isEvidence: (id: string) => boolean;
}

export const scaffoldRoom: InjectionKey<ScaffoldRoom> = Symbol('scaffold');

/** The room of the scaffold a pole stands in. @throws Error outside of one */
export function useRoom(): ScaffoldRoom {
  const room = inject(scaffoldRoom);
  if (!room) throw new Error('a pole stands only in a scaffold');
  return room;
}

export const px = (pixels: number): string => `${pixels}px`;
