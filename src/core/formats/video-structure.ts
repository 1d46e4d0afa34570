/** What a video file says of itself, whatever container it is in. */
export interface VideoStructure {
  width: number;
  height: number;
  codec: string;
  /** ms; from the header, or to the end of the last frame when the header lacks it. */
  durationMs: number;
  durationTold: boolean;
  /** Times of the frames, ms from the video's start, ascending. */
  frames: number[];
  /** Epoch ms at which it says it was written; absent when it does not. */
  writtenAt?: number;
  /** What is missing, when the file breaks off or is broken inside. */
  problem?: string;
}
