/** A shape on a pole, in pixels of the scaffold. What it is, is told by its look before its colour. */
export interface Shape {
  left: number;
  top: number;
  width: number;
  height: number;
  look: 'fill' | 'hollow' | 'hatch' | 'ring' | 'disc' | 'dotted' | 'wave' | 'foot';
  tone: Tone;
  /** Belongs to the chosen clue. */
  evidence?: boolean;
  /** Drawn over its upper part while it waited. */
  waiting?: number;
}
/** Colours of the look that shapes are drawn in. */
const toneNames = [
  'steel',
  'steel-deep',
  'timber',
  'sea',
  'brick',
  'amber',
  'violet',
  'ink',
  'line',
  'timber-pale',
  'sea-pale',
  'brick-pale',
] as const;
export type Tone = (typeof toneNames)[number];

export type Colours = Record<Tone | 'ground', string>;

/** A canvas made empty, in CSS pixels. Setting a size clears it too, but costs a new buffer; clearing alone is cheap. */
export function cleared(canvas: HTMLCanvasElement, width: number, height: number): CanvasRenderingContext2D {
  const ratio = window.devicePixelRatio;
  const across = Math.max(1, Math.round(width * ratio));
  const tall = Math.max(1, Math.round(height * ratio));
  if (canvas.width !== across || canvas.height !== tall) {
    canvas.width = across;
    canvas.height = tall;
  }
  const draw = canvas.getContext('2d')!;
  draw.setTransform(ratio, 0, 0, ratio, 0, 0);
  draw.clearRect(0, 0, width, height);
  return draw;
}

/** Draws one shape. Hatching is done only between `from` and `until`, which are in sight. */
export function paint(draw: CanvasRenderingContext2D, s: Shape, colours: Colours, from: number, until: number): void {
  const colour = colours[s.tone];
  draw.fillStyle = colour;
  draw.strokeStyle = colour;
  draw.lineWidth = 1.5;
  switch (s.look) {
    case 'fill':
      draw.fillRect(s.left, s.top, s.width, s.height);
      break;
    case 'wave':
      draw.fillRect(s.left, s.top, s.width, s.height);
      // A notch where it moved: the line is set off to the side for a moment.
      draw.fillStyle = colours.ground;
      draw.fillRect(s.left, s.top, s.width / 2, Math.min(4, s.height));
      break;
    case 'hollow':
      draw.fillStyle = colours.ground;
      draw.fillRect(s.left, s.top, s.width, s.height);
      draw.strokeRect(s.left + 0.75, s.top + 0.75, s.width - 1.5, Math.max(1, s.height - 1.5));
      break;
    case 'hatch':
      hatch(draw, s, s.height, colour, from, until);
      draw.strokeRect(s.left + 0.75, s.top + 0.75, s.width - 1.5, Math.max(1, s.height - 1.5));
      break;
    case 'ring':
    case 'disc':
      draw.beginPath();
      draw.arc(s.left + s.width / 2, s.top + s.height / 2, s.width / 2 - 0.75, 0, 2 * Math.PI);
      if (s.look === 'ring') draw.fillStyle = colours.ground;
      draw.fill();
      draw.stroke();
      break;
    case 'dotted':
      draw.setLineDash([2, 3]);
      draw.beginPath();
      draw.moveTo(s.left + s.width / 2, s.top);
      draw.lineTo(s.left + s.width / 2, s.top + s.height);
      draw.stroke();
      draw.setLineDash([]);
      break;
    case 'foot':
      draw.lineWidth = 1;
      draw.beginPath();
      draw.moveTo(s.left + 0.5, s.top);
      draw.lineTo(s.left + 0.5, s.top + s.height);
      draw.lineTo(s.left + s.width, s.top + s.height);
      draw.stroke();
      break;
  }
  if (s.waiting && s.waiting > 3) {
    draw.fillStyle = colours.ground;
    draw.fillRect(s.left, s.top, s.width, s.waiting);
    hatch(draw, s, s.waiting, colour, from, until);
  }
  if (s.evidence) {
    draw.strokeStyle = colours.ink;
    draw.lineWidth = 1.5;
    draw.strokeRect(s.left - 2, s.top - 2, s.width + 4, s.height + 4);
  }
}

/** Slanted lines, no further than the shape. */
function hatch(
  draw: CanvasRenderingContext2D,
  s: Shape,
  height: number,
  colour: string,
  from: number,
  until: number,
): void {
  const top = Math.max(s.top, from);
  const end = Math.min(s.top + height, until);
  draw.strokeStyle = colour;
  draw.lineWidth = 1.6;
  draw.beginPath();
  for (let y = top - ((top - s.top) % 4); y < end; y += 4) {
    draw.moveTo(s.left, Math.min(end, y + s.width * 0.6));
    draw.lineTo(s.left + s.width, y);
  }
  draw.stroke();
}

const known = new Map<boolean, Colours>();
/** The colours of the look, asked of the page once for light and once for dark. */
export function tokens(dark: boolean): Colours {
  let colours = known.get(dark);
  if (!colours) {
    const style = getComputedStyle(document.documentElement);
    const names = [...toneNames, 'ground'] as const;
    colours = Object.fromEntries(names.map((name) => [name, style.getPropertyValue(`--${name}`).trim()])) as Colours;
    known.set(dark, colours);
  }
  return colours;
}
