import sharp from 'sharp';
import type { ContrastView } from '../../core/contrast/view.ts';
import { eventsOf, type Box } from '../../core/evidence/event.ts';
import { longestSide, readPicture } from '../../core/formats/picture.ts';
import { handOverOf, passingAt, picturesOf, targetAt, type ChosenPicture } from '../../core/hand-over/gather.ts';
import { without, type HandedPicture, type HandOver, type Part } from '../../core/hand-over/hand-over.ts';
import { writeHtml } from '../../core/hand-over/html.ts';
import { writeMarkdown, writeText } from '../../core/hand-over/markdown.ts';
import type { VideoMime } from '../../core/formats/video.ts';
import type { Advice } from '../../core/remedies/advice.ts';
import { proofOf } from '../../core/trials/proof.ts';
import { filmFrame } from '../film-frame.ts';
import { proofTrials } from '../jobs/turns.ts';
import { shownTrials } from '../store/shown-trials.ts';
import type { Store } from '../store/store.ts';

/** A part of a picture that nobody is to read, as shares of its width and height. */
export interface Blurred {
  picture: number;
  x: number;
  y: number;
  width: number;
  height: number;
}

/** What is asked for, and what the other threads have told of it. */
export interface HandOverOrder {
  as: 'html' | 'text' | 'markdown';
  without: Part[];
  blurred: Blurred[];
  /** The address that a reader reaches this server at. */
  base: string;
  contrast: ContrastView | null;
  advice: Pick<Advice, 'text' | 'because'>[];
}

/** Pictures are handed over this wide at most, pixels, and this heavy, bytes, all together. */
const widest = 1280;
const heaviest = 1_800_000;
/** How a picture is made lighter until it fits: by quality first, then by size. */
const lighter = [
  { share: 1, quality: 82 },
  { share: 1, quality: 65 },
  { share: 1, quality: 50 },
  { share: 0.7, quality: 55 },
  { share: 0.45, quality: 50 },
  { share: 0.25, quality: 45 },
] as const;
/** A blurred part is drawn in so many squares across: less than a letter each would show. */
const squares = 6;

/** One failed attempt as a page, as text or as Markdown. @param env with the mark by which processes are ended with their server */
export async function writeHandOver(
  store: Store,
  id: string,
  version: string,
  order: HandOverOrder,
  env: NodeJS.ProcessEnv = process.env,
): Promise<string | undefined> {
  const attempt = store.attempts.get(id);
  if (!attempt) return undefined;
  const events = store.events.recorded(id);
  const run = store.runs.get(attempt.runId);
  const verdict = attempt.familyId ? store.families.verdict(attempt.familyId) : undefined;
  const told = handOverOf({
    attempt,
    run: { name: run?.name ?? attempt.runId, commit: run?.commit ?? null, branch: run?.branch ?? null },
    events,
    suspects: store.attempts.suspects(id),
    verdict,
    contrast: order.contrast,
    advice: order.advice,
    shown: shownTrials(store.db, id, attempt.test.id, store.attempts.printOf(id))?.shown,
    proofs: proofsOf(store, id),
    link: `${order.base}/attempts/${encodeURIComponent(id)}`,
    now: Date.now(),
    version,
  });
  // What people wrote here themselves has not been masked before.
  const masked: HandOver = store.rules.masker().value(told);
  const target = targetAt(events, attempt.failure ?? {});
  const chosen: Chosen[] = [
    ...picturesOf(events, attempt.failure?.at).map((one, i) => (i === 0 && target ? { ...one, target } : one)),
    ...passingPicture(store, order.contrast, attempt.failure?.step, order.base),
  ];
  const wanted = order.without.includes('pictures') ? [] : chosen;
  const pictures = order.as === 'html' ? await drawn(store, wanted, order.blurred, env) : wanted.map(bare);
  const whole = without({ ...masked, pictures }, order.without);
  return order.as === 'html' ? writeHtml(whole) : order.as === 'text' ? writeText(whole) : writeMarkdown(whole);
}

interface Chosen extends ChosenPicture {
  /** The bench of another attempt that it is of. */
  link?: string;
  /** What is outlined in it, CSS pixels of the window. */
  target?: Box;
}

const bare = ({ event, words, link, filmMs = 0 }: Chosen): HandedPicture => ({
  at: event.at + filmMs,
  words,
  ...(link === undefined ? {} : { link }),
  width: event.data.width,
  height: event.data.height,
});

function passingPicture(store: Store, contrast: ContrastView | null, step: string | undefined, base: string): Chosen[] {
  const there = passingAt(contrast, step);
  if (!there) return [];
  const event = eventsOf(store.events.ofLanes(there.id, ['screen'], 10_000), 'screen').findLast(
    ({ kind, data, at }) => kind !== 'video' && !data.part && at <= there.at,
  );
  const link = `${base}/attempts/${encodeURIComponent(there.id)}`;
  return event ? [{ event, words: 'A passing attempt at the same step', link }] : [];
}

/** Pictures in the page, all together no heavier than it may be; one that is gone or broken is told of in words. */
async function drawn(
  store: Store,
  chosen: readonly Chosen[],
  blurred: readonly Blurred[],
  env: NodeJS.ProcessEnv,
): Promise<HandedPicture[]> {
  const out: HandedPicture[] = [];
  for (const [i, one] of chosen.entries()) {
    const own = blurred.filter(({ picture }) => picture === i);
    out.push(
      (await drawnOne(store, one, own, heaviest / chosen.length, env)) ?? {
        ...bare(one),
        words: `${one.words} (its picture cannot be shown)`,
      },
    );
  }
  return out;
}

/** The bytes of a picture; of a video, what it shows at its moment. */
function pictureOf(store: Store, { event, filmMs }: Chosen, env: NodeJS.ProcessEnv): Promise<Buffer | undefined> {
  const { blob, mime } = event.data;
  if (filmMs === undefined) return store.blobs.read(blob);
  return filmFrame(store.blobs.place(blob), filmMs, mime as VideoMime, env);
}

async function drawnOne(
  store: Store,
  one: Chosen,
  blurred: readonly Blurred[],
  most: number,
  env: NodeJS.ProcessEnv,
): Promise<HandedPicture | undefined> {
  try {
    const bytes = await pictureOf(store, one, env);
    if (!bytes || !readPicture(bytes)) return undefined;
    const { data, info } = await sharp(bytes, { limitInputPixels: longestSide * longestSide })
      .flatten({ background: '#fff' })
      .resize(widest, 4 * widest, { fit: 'inside', withoutEnlargement: true })
      .raw()
      .toBuffer({ resolveWithObject: true });
    const { width, height, channels } = info;
    const raw = { width, height, channels };
    const outline = one.target ? [outlined(one.target, raw, width / one.event.data.width, one.event.data.scale)] : [];
    const covers = await Promise.all(blurred.map((box) => coverOf(data, raw, box)));
    const whole = await sharp(data, { raw })
      .composite([...outline, ...covers.flat()])
      .png()
      .toBuffer();
    for (const { share, quality } of lighter) {
      const across = Math.max(1, Math.round(width * share));
      const jpeg = await sharp(whole).resize(across).jpeg({ quality }).toBuffer();
      // Written as text it is a third longer.
      if (jpeg.length > (most * 3) / 4) continue;
      const down = Math.round((height * across) / width);
      return { ...bare(one), width: across, height: down, data: `data:image/jpeg;base64,${jpeg.toString('base64')}` };
    }
    return undefined;
  } catch {
    return undefined;
  }
}

/** An outline around what the failing step was meant for. @param by how much smaller the picture was made */
function outlined(
  { x, y, width, height }: Box,
  raw: Raw,
  by: number,
  scale: number,
): { input: Buffer; left: number; top: number } {
  const [left, top, across, down] = [x, y, width, height].map((one) => one * scale * by) as [
    number,
    number,
    number,
    number,
  ];
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${raw.width}" height="${raw.height}"><rect x="${left - 4}" y="${top - 4}" width="${across + 8}" height="${down + 8}" fill="none" stroke="#b0412b" stroke-width="3"/></svg>`;
  return { input: Buffer.from(svg), left: 0, top: 0 };
}

type Raw = { width: number; height: number; channels: 1 | 2 | 3 | 4 };

/** A few squares in the colours of what they cover: its letters are not in the page in any form. */
async function coverOf(data: Buffer, raw: Raw, box: Blurred): Promise<{ input: Buffer; left: number; top: number }[]> {
  const left = Math.min(raw.width - 1, Math.max(0, Math.floor(box.x * raw.width)));
  const top = Math.min(raw.height - 1, Math.max(0, Math.floor(box.y * raw.height)));
  const width = Math.min(raw.width - left, Math.max(1, Math.ceil(box.width * raw.width)));
  const height = Math.min(raw.height - top, Math.max(1, Math.ceil(box.height * raw.height)));
  const part = await sharp(data, { raw }).extract({ left, top, width, height }).png().toBuffer();
  const across = Math.max(1, Math.min(squares, Math.round(width / 40)));
  const few = await sharp(part)
    .resize(across, Math.max(1, Math.round((across * height) / width / 2)), { fit: 'fill' })
    .png()
    .toBuffer();
  return [
    { input: await sharp(few).resize(width, height, { fit: 'fill', kernel: 'nearest' }).png().toBuffer(), left, top },
  ];
}

/** What proofs of remedies came to, the newest last. */
function proofsOf(store: Store, attempt: string): { remedy: string; words: string }[] {
  return store.drills.proofsOf(attempt).map(({ id, stressors, trials, proof }) => ({
    remedy: proof!.words,
    words: proofOf({ stressors, trials }, proofTrials(store, id)).words,
  }));
}
