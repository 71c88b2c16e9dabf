import { createCanvas, type Canvas, type SKRSContext2D } from '@napi-rs/canvas';
import { cloudNoise } from './random.js';

export type Context = SKRSContext2D;
export type Stop = [at: number, colour: string];

/** A colour that changes downwards from `from` to `to`. */
export function fade(c: Context, from: number, to: number, stops: readonly Stop[]) {
  const gradient = c.createLinearGradient(0, from, 0, to);
  for (const [at, colour] of stops) gradient.addColorStop(at, colour);
  return gradient;
}

export function across(c: Context, from: number, to: number, stops: readonly Stop[]) {
  const gradient = c.createLinearGradient(from, 0, to, 0);
  for (const [at, colour] of stops) gradient.addColorStop(at, colour);
  return gradient;
}

export function halo(c: Context, x: number, y: number, radius: number, stops: readonly Stop[]): void {
  const gradient = c.createRadialGradient(x, y, 0, x, y, radius);
  for (const [at, colour] of stops) gradient.addColorStop(at, colour);
  c.fillStyle = gradient;
  c.fillRect(x - radius, y - radius, 2 * radius, 2 * radius);
}

export function shape(
  c: Context,
  points: readonly (readonly [number, number])[],
  fill: Context['fillStyle'],
): void {
  c.beginPath();
  for (const [x, y] of points) c.lineTo(x, y);
  c.closePath();
  c.fillStyle = fill;
  c.fill();
}

export function line(
  c: Context,
  points: readonly (readonly [number, number])[],
  width: number,
  colour: string,
): void {
  c.beginPath();
  for (const [x, y] of points) c.lineTo(x, y);
  c.lineWidth = width;
  c.strokeStyle = colour;
  c.stroke();
}

export function disc(c: Context, x: number, y: number, radius: number, fill: Context['fillStyle']): void {
  c.beginPath();
  c.arc(x, y, radius, 0, 2 * Math.PI);
  c.fillStyle = fill;
  c.fill();
}

const noiseSize = 512;
const noises = new Map<string, Canvas>();

function noiseTile(coarsest: number, seed: number, contrast: number): Canvas {
  const name = `${coarsest}/${seed}/${contrast}`;
  const made = noises.get(name);
  if (made) return made;
  const tile = createCanvas(noiseSize, noiseSize);
  const c = tile.getContext('2d');
  const pixels = c.createImageData(noiseSize, noiseSize);
  cloudNoise(noiseSize, coarsest, seed).forEach((value, i) => {
    const level = Math.min(Math.max(128 + contrast * 255 * value, 0), 255);
    pixels.data.set([level, level, level, 255], 4 * i);
  });
  c.putImageData(pixels, 0, 0);
  noises.set(name, tile);
  return tile;
}

/** Gives all that is painted so far a surface: lighter and darker patches, from `coarsest` pixels down to two. */
export function weather(c: Context, coarsest: number, contrast: number, seed: number): void {
  c.save();
  c.globalCompositeOperation = 'source-atop';
  const { width, height } = c.canvas;
  c.globalAlpha = 0.5;
  const copy = createCanvas(width, height);
  const d = copy.getContext('2d');
  d.drawImage(c.canvas, 0, 0);
  d.globalCompositeOperation = 'hard-light';
  d.fillStyle = d.createPattern(noiseTile(coarsest, seed, contrast), 'repeat') as typeof d.fillStyle;
  d.fillRect(0, 0, width, height);
  c.drawImage(copy, 0, 0);
  c.restore();
}

/** Courses of stones, each of its own shade. */
export function stones(
  c: Context,
  [left, top, width, height]: [number, number, number, number],
  {
    course,
    length,
    random,
    colour,
  }: { course: number; length: number; random: () => number; colour: (v: number) => string },
): void {
  c.save();
  c.beginPath();
  c.rect(left, top, width, height);
  c.clip();
  for (let y = top, row = 0; y < top + height; y += course, row++) {
    for (let x = left - random() * length; x < left + width;) {
      const w = length * (0.65 + 0.7 * random());
      c.fillStyle = colour(random());
      c.beginPath();
      c.roundRect(x + 1.5, y + 1.5, w - 3, course - 3, Math.min(6, course / 5));
      c.fill();
      line(
        c,
        [
          [x + 5, y + 3],
          [x + w - 5, y + 3],
        ],
        1.5,
        'rgba(255,244,220,0.16)',
      );
      line(
        c,
        [
          [x + 5, y + course - 3],
          [x + w - 5, y + course - 3],
        ],
        2,
        'rgba(0,0,0,0.2)',
      );
      x += w;
    }
  }
  c.restore();
}

/** Straight-stroked capitals on a grid of 4 by 6; enough for the names in our world. */
const strokes: Record<string, [number, number][][]> = {
  A: [
    [
      [0, 6],
      [2, 0],
      [4, 6],
    ],
    [
      [0.8, 4],
      [3.2, 4],
    ],
  ],
  D: [
    [
      [0, 0],
      [0, 6],
      [2.6, 6],
      [4, 4.4],
      [4, 1.6],
      [2.6, 0],
      [0, 0],
    ],
  ],
  E: [
    [
      [4, 0],
      [0, 0],
      [0, 6],
      [4, 6],
    ],
    [
      [0, 3],
      [3, 3],
    ],
  ],
  F: [
    [
      [4, 0],
      [0, 0],
      [0, 6],
    ],
    [
      [0, 3],
      [3, 3],
    ],
  ],
  H: [
    [
      [0, 0],
      [0, 6],
    ],
    [
      [4, 0],
      [4, 6],
    ],
    [
      [0, 3],
      [4, 3],
    ],
  ],
  I: [
    [
      [2, 0],
      [2, 6],
    ],
  ],
  L: [
    [
      [0, 0],
      [0, 6],
      [4, 6],
    ],
  ],
  N: [
    [
      [0, 6],
      [0, 0],
      [4, 6],
      [4, 0],
    ],
  ],
  O: [
    [
      [1.2, 0],
      [2.8, 0],
      [4, 1.5],
      [4, 4.5],
      [2.8, 6],
      [1.2, 6],
      [0, 4.5],
      [0, 1.5],
      [1.2, 0],
    ],
  ],
  R: [
    [
      [0, 6],
      [0, 0],
      [3, 0],
      [4, 1],
      [4, 2.2],
      [3, 3.2],
      [0, 3.2],
    ],
    [
      [2, 3.2],
      [4, 6],
    ],
  ],
  S: [
    [
      [4, 0.7],
      [3, 0],
      [1, 0],
      [0, 1],
      [0, 2.2],
      [1, 3],
      [3, 3],
      [4, 3.9],
      [4, 5],
      [3, 6],
      [1, 6],
      [0, 5.3],
    ],
  ],
  T: [
    [
      [0, 0],
      [4, 0],
    ],
    [
      [2, 0],
      [2, 6],
    ],
  ],
  W: [
    [
      [0, 0],
      [1, 6],
      [2, 2],
      [3, 6],
      [4, 0],
    ],
  ],
  Y: [
    [
      [0, 0],
      [2, 3],
      [4, 0],
    ],
    [
      [2, 3],
      [2, 6],
    ],
  ],
  '1': [
    [
      [1, 1],
      [2, 0],
      [2, 6],
    ],
  ],
  '2': [
    [
      [0, 1],
      [1, 0],
      [3, 0],
      [4, 1],
      [4, 2.2],
      [0, 6],
      [4, 6],
    ],
  ],
  '3': [
    [
      [0, 0],
      [4, 0],
      [2, 2.4],
      [3.2, 2.6],
      [4, 3.8],
      [4, 5],
      [3, 6],
      [1, 6],
      [0, 5.2],
    ],
  ],
  '4': [
    [
      [3, 6],
      [3, 0],
      [0, 4],
      [4, 4],
    ],
  ],
  C: [
    [
      [4, 1],
      [3, 0],
      [1, 0],
      [0, 1],
      [0, 5],
      [1, 6],
      [3, 6],
      [4, 5],
    ],
  ],
  K: [
    [
      [0, 0],
      [0, 6],
    ],
    [
      [4, 0],
      [0, 3.4],
    ],
    [
      [1.4, 2.4],
      [4, 6],
    ],
  ],
  M: [
    [
      [0, 6],
      [0, 0],
      [2, 3],
      [4, 0],
      [4, 6],
    ],
  ],
  X: [
    [
      [0, 0],
      [4, 6],
    ],
    [
      [4, 0],
      [0, 6],
    ],
  ],
  '0': [
    [
      [1, 0],
      [3, 0],
      [4, 1],
      [4, 5],
      [3, 6],
      [1, 6],
      [0, 5],
      [0, 1],
      [1, 0],
    ],
  ],
  '7': [
    [
      [0, 0],
      [4, 0],
      [1.6, 6],
    ],
  ],
};

export function letters(
  c: Context,
  text: string,
  x: number,
  y: number,
  height: number,
  colour: string,
): void {
  const unit = height / 6;
  c.save();
  c.lineCap = 'round';
  c.lineJoin = 'round';
  for (const letter of text) {
    for (const stroke of strokes[letter] ?? []) {
      line(
        c,
        stroke.map(([u, v]) => [x + u * unit, y + v * unit] as const),
        unit * 0.95,
        colour,
      );
    }
    x += unit * (letter === ' ' ? 3.4 : letter === 'I' || letter === '1' ? 4.6 : 5.8);
  }
  c.restore();
}

/** A house front with roof, lit windows and a door; stands on `base`. */
export function house(
  c: Context,
  [left, base, width, height]: [number, number, number, number],
  {
    wall,
    roof,
    glass,
    random,
    lit,
  }: { wall: string; roof: string; glass: string; random: () => number; lit: number },
): void {
  const top = base - height;
  c.fillStyle = wall;
  c.fillRect(left, top, width, height);
  c.fillStyle = across(c, left, left + width, [
    [0, 'rgba(255,220,160,0.25)'],
    [1, 'rgba(20,20,50,0.28)'],
  ]);
  c.fillRect(left, top, width, height);
  const rise = width * (0.3 + 0.2 * random());
  shape(
    c,
    [
      [left - 6, top],
      [left + width * 0.5, top - rise],
      [left + width + 6, top],
    ],
    roof,
  );
  line(
    c,
    [
      [left - 6, top],
      [left + width * 0.5, top - rise],
    ],
    3,
    'rgba(255,226,170,0.5)',
  );
  c.fillStyle = roof;
  c.fillRect(left + width * 0.68, top - rise * 0.86, width * 0.11, rise * 0.5);
  const columns = Math.max(2, Math.round(width / 46));
  const rows = Math.max(1, Math.round(height / 62));
  for (let j = 0; j < rows; j++) {
    for (let i = 0; i < columns; i++) {
      const w = (width / columns) * 0.42;
      const x = left + (width / columns) * (i + 0.29);
      const y = top + (height / rows) * (j + 0.24);
      const h = (height / rows) * 0.5;
      c.fillStyle = 'rgba(250,240,220,0.7)';
      c.fillRect(x - 2, y - 2, w + 4, h + 4);
      c.fillStyle = random() < lit ? '#ffd27a' : glass;
      c.fillRect(x, y, w, h);
      line(
        c,
        [
          [x + w / 2, y],
          [x + w / 2, y + h],
        ],
        1.5,
        'rgba(60,40,30,0.8)',
      );
      line(
        c,
        [
          [x, y + h * 0.45],
          [x + w, y + h * 0.45],
        ],
        1.5,
        'rgba(60,40,30,0.8)',
      );
    }
  }
}

/** A leafy crown out of many small leaves, lit from the upper left. */
export function crown(
  c: Context,
  x: number,
  y: number,
  radius: number,
  { random, dark, light, leaf }: { random: () => number; dark: string; light: string; leaf: number },
): void {
  for (let i = 0; i < radius * 2.2; i++) {
    const angle = random() * 2 * Math.PI;
    const far = Math.sqrt(random()) * radius;
    const px = x + far * Math.cos(angle);
    const py = y + far * 0.8 * Math.sin(angle);
    const lit = (x - px + y - py) / radius + random() * 0.9 > 0.55;
    c.globalAlpha = 0.85;
    disc(c, px, py, leaf * (0.5 + random()), lit ? light : dark);
  }
  c.globalAlpha = 1;
}
