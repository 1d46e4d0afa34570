import { isMp4, readMp4, withoutMp4Texts } from './mp4.ts';
import type { VideoStructure } from './video-structure.ts';
import { isWebm, readWebm, withoutWebmTexts } from './webm.ts';

/** Videos of any container that is read. */
export type VideoMime = 'video/webm' | 'video/mp4';

/** @returns nothing for what is no video that is read */
export const videoMime = (head: Uint8Array): VideoMime | undefined =>
  isWebm(head) ? 'video/webm' : isMp4(head) ? 'video/mp4' : undefined;

/** @throws Error in words when it cannot be read */
export const readVideo = (b: Uint8Array): VideoStructure => (isWebm(b) ? readWebm(b) : readMp4(b));

/** Takes out of a video the texts it carries, where it lies: a copy of one may be what memory does not hold. */
export const withoutVideoTexts = <T extends Uint8Array>(b: T): T =>
  isWebm(b) ? withoutWebmTexts(b) : withoutMp4Texts(b);
