import { comparePictures, findingsOf, type Finding, type Pixels, type Region } from '../../core/vision/compare.ts';
import { readVideo } from '../../core/formats/video.ts';

/** What is asked of the worker, and what it answers. */
export type VisionAsk =
  | { id: number; kind: 'compare'; a: string; b: string }
  | { id: number; kind: 'look'; picture: string }
  | { id: number; kind: 'frames'; film: string };

export interface Compared {
  width: number;
  height: number;
  share: number;
  regions: Region[];
  /** The difference as a picture: brick where they differ, else clear. */
  map: ImageBitmap;
  findings: { a: Finding[]; b: Finding[] };
}

export type VisionAnswer =
  | { id: number; compared: Compared }
  | { id: number; findings: Finding[] }
  | { id: number; frames: { times: number[]; problem?: string } }
  | { id: number; error: string };

/** Pictures larger than this are looked at smaller. */
const mostAcross = 1280;

async function pixelsOf(address: string, size?: { width: number; height: number }): Promise<Pixels> {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error('the picture is not there any more');
  const bitmap = await createImageBitmap(await answer.blob());
  const scale = Math.min(1, mostAcross / bitmap.width);
  const width = size?.width ?? Math.max(1, Math.round(bitmap.width * scale));
  const height = size?.height ?? Math.max(1, Math.round(bitmap.height * scale));
  const draw = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
  draw.drawImage(bitmap, 0, 0, width, height);
  const { data } = draw.getImageData(0, 0, width, height);
  return { width, height, data };
}

async function compare(one: string, other: string): Promise<Compared> {
  const a = await pixelsOf(one);
  const b = await pixelsOf(other, a);
  const { mask, share, regions } = comparePictures(a, b);
  const image = new ImageData(a.width, a.height);
  for (let i = 0; i < mask.length; i++) if (mask[i]) image.data.set([176, 65, 43, 255], i * 4);
  return {
    width: a.width,
    height: a.height,
    share,
    regions,
    map: await createImageBitmap(image),
    findings: { a: findingsOf(a), b: findingsOf(b) },
  };
}

async function frames(film: string): Promise<{ times: number[]; problem?: string }> {
  const answer = await fetch(film);
  const read = readVideo(new Uint8Array(await answer.arrayBuffer()));
  return { times: read.frames, ...(read.problem ? { problem: read.problem } : {}) };
}

self.onmessage = async ({ data }: MessageEvent<VisionAsk>) => {
  try {
    if (data.kind === 'compare') {
      const compared = await compare(data.a, data.b);
      self.postMessage({ id: data.id, compared } satisfies VisionAnswer, { transfer: [compared.map] });
    } else if (data.kind === 'look') {
      const findings = findingsOf(await pixelsOf(data.picture));
      self.postMessage({ id: data.id, findings } satisfies VisionAnswer);
    } else self.postMessage({ id: data.id, frames: await frames(data.film) } satisfies VisionAnswer);
  } catch (error) {
    self.postMessage({ id: data.id, error: (error as Error).message } satisfies VisionAnswer);
  }
};
