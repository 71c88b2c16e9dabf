import { apply, invert, multiply, translation, type Mat3, type Point } from '../geometry/mat3.js';
import { makePlane, type Plane } from '../track/image/plane.js';
import { cellSeed, groundLevel } from './film.js';

// A flat thing in a moving camera's picture, with truth: where its corners are on every frame.

const { sin, cos, floor, max, min, round, imul, PI } = Math;

export interface FlatThing {
  /** Its size, pixels of its own. */
  width: number;
  height: number;
  level: (x: number, y: number) => number;
}

/** A board painted all over, with a frame about it. */
export const board: FlatThing = {
  width: 600,
  height: 450,
  level: (x, y) => {
    const edge = min(x, y, 600 - x, 450 - y);
    return edge < 14 ? 70 + 12 * sin(x * 0.11) + 9 * sin(y * 0.17) : groundLevel(1.6 * x + 3000, 1.6 * y);
  },
};

/** A dark screen with few marks on it, in a lighter frame with a screw here and there. */
export const darkScreen: FlatThing = {
  width: 600,
  height: 400,
  level: (x, y) => {
    const edge = min(x, y, 600 - x, 400 - y);
    if (edge < 22) {
      const screw = ((x + 75) % 150) - 75;
      const row = y < 200 ? y - 11 : y - 389;
      return screw * screw + row * row < 36 ? 60 : 165 + 18 * sin(x * 0.023) + 14 * sin(y * 0.031);
    }
    const inBar = y > 60 && y < 68 && x > 60 && x < 360;
    const inMark = y > 310 && y < 330 && x > 420 && x < 540 && floor(x / 24) % 2 === 0;
    const inWord = y > 96 && y < 120 && x > 60 && x < 260 && cellSeed(floor(x / 8), floor(y / 8)) % 3 === 0;
    return 30 + 4 * sin(y * 0.012) + (inBar ? 26 : 0) + (inMark ? 60 : 0) + (inWord ? 40 : 0);
  },
};

/** What is done to it; all 0 or none when left out. */
export interface Hardship {
  frames: number;
  /** Frames in which it turns or grows to and fro once; 60 when left out. */
  period?: number;
  /** The most it turns away, radians. */
  yaw?: number;
  /** It grows to 1.6 and shrinks to 0.6 at 1. */
  growth?: number;
  /** Share by which the light goes up and down. */
  light?: number;
  /** Standard deviation, grey levels. */
  grain?: number;
  /** Width of a box blur, pixels. */
  blur?: number;
  /** A bar passes over a share of it, on these frames. */
  bar?: { share: number; first: number; last: number };
  /** All of it is covered on these frames. */
  cover?: { first: number; last: number };
  /** The share of it that leaves the picture. */
  outside?: number;
  /** Light spots that pass over it as on glass, grey levels. */
  reflections?: number;
}

export const filmSize = { width: 1920, height: 1080 };

const focal = 1600;

/** From the thing's pixels to the picture's, on a frame. */
export function thingInPicture(thing: FlatThing, hardship: Hardship, frame: number): Mat3 {
  const { period = 60, yaw = 0, growth = 0, outside = 0 } = hardship;
  const t = (2 * PI * frame) / period;
  const angle = yaw * sin(t);
  const tip = 0.25 * yaw * sin(0.7 * t);
  const roll = 0.06 * sin(1.3 * t);
  const size = growth === 0 ? 1 + 0.02 * sin(t) : 1 + growth * (sin(t) > 0 ? 0.6 : 0.4) * sin(t);
  const away = outside * thing.width * (0.5 - 0.5 * cos(t));
  const base = outside > 0 ? filmSize.width - thing.width / 2 - 12 : filmSize.width / 2;
  const x = base + away + (outside > 0 ? 0 : 90 * sin(0.9 * t)) + 3 * sin(7 * t);
  const y = filmSize.height / 2 + 50 * sin(0.6 * t) + 2.5 * sin(9 * t);
  const [c, s] = [cos(angle), sin(angle)];
  const [ct, st] = [cos(tip), sin(tip)];
  const [cr, sr] = [cos(roll), sin(roll)];
  // A plane turned about its middle, focal length away: rotation · (u, v, 0) + (0, 0, focal).
  const turned: Mat3 = [c, 0, 0, s * st, ct, 0, (-s * ct) / focal, st / focal, 1];
  const rolled: Mat3 = [size * cr, -size * sr, x, size * sr, size * cr, y, 0, 0, 1];
  return multiply(rolled, multiply(turned, translation(-thing.width / 2, -thing.height / 2)));
}

export const cornersOf = ({ width, height }: FlatThing): [Point, Point, Point, Point] => [
  { x: 0, y: 0 },
  { x: width, y: 0 },
  { x: width, y: height },
  { x: 0, y: height },
];

/** Where the thing's corners are, on a frame. */
export const cornersAt = (thing: FlatThing, hardship: Hardship, frame: number): Point[] =>
  cornersOf(thing).map(({ x, y }) => apply(thingInPicture(thing, hardship, frame), x, y));

const textures = new Map<FlatThing, Float32Array>();

/** A thing's levels, `fine` of them a pixel each way; painted once. */
function painted(thing: FlatThing, fine: number): Float32Array {
  const known = textures.get(thing);
  if (known) return known;
  const [w, h] = [fine * thing.width, fine * thing.height];
  const texture = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) texture[y * w + x] = thing.level((x + 0.5) / fine, (y + 0.5) / fine);
  textures.set(thing, texture);
  return texture;
}

let ground: Plane | null = null;

/** What lies behind all things: slow waves. */
function behind(): Plane {
  if (ground) return ground;
  ground = makePlane(filmSize.width, filmSize.height);
  for (let y = 0; y < filmSize.height; y++)
    for (let x = 0; x < filmSize.width; x++)
      ground.data[y * ground.stride + x] = 95 + 30 * sin(x * 0.013) * sin(y * 0.017);
  return ground;
}

/** Films things: what is painted once is kept from frame to frame. */
export class FlatFilm {
  private readonly texture: Float32Array;
  private readonly ground: Plane;
  private readonly fine = 2;

  constructor(
    private readonly thing: FlatThing,
    private readonly hardship: Hardship,
  ) {
    this.texture = painted(thing, this.fine);
    this.ground = behind();
  }

  shoot(frame: number): Plane {
    const { thing, hardship, ground, fine, texture } = this;
    const { light = 0, grain = 0, blur = 0, bar, cover, reflections = 0 } = hardship;
    const matrix = thingInPicture(thing, hardship, frame);
    const back = invert(matrix);
    const corners = cornersAt(thing, hardship, frame);
    const reach = 60;
    const left = max(floor(min(...corners.map((p) => p.x)) - reach), 0);
    const right = min(floor(max(...corners.map((p) => p.x)) + reach), filmSize.width);
    const top = max(floor(min(...corners.map((p) => p.y)) - reach), 0);
    const bottom = min(floor(max(...corners.map((p) => p.y)) + reach), filmSize.height);
    const [w, h] = [right - left, bottom - top];
    const levels = new Float32Array(w * h);
    const [tw, th] = [fine * thing.width, fine * thing.height];
    // What is blurred has no edges that one look a pixel would miss.
    const looks = blur > 1 ? 1 : 4;
    const gain = 1 + light * sin((2 * PI * frame) / 50);
    const phase = frame * 5;
    const barred = bar && frame >= bar.first && frame <= bar.last;
    const covered = cover && frame >= cover.first && frame <= cover.last;
    const barWidth = (bar?.share ?? 0) * thing.width;
    const barAt = bar ? ((frame - bar.first) / (bar.last - bar.first)) * (thing.width - barWidth) : 0;
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        let sum = 0;
        for (let k = 0; k < looks; k++) {
          const px = left + x + (looks === 1 ? 0.5 : 0.25 + 0.5 * (k & 1));
          const py = top + y + (looks === 1 ? 0.5 : 0.25 + 0.5 * (k >> 1));
          const d = back[6] * px + back[7] * py + back[8];
          const u = (back[0] * px + back[1] * py + back[2]) / d;
          const v = (back[3] * px + back[4] * py + back[5]) / d;
          if (u < 0 || v < 0 || u >= thing.width || v >= thing.height) {
            sum += ground.data[(top + y) * ground.stride + left + x];
            continue;
          }
          if (covered || (barred && u >= barAt && u < barAt + barWidth)) {
            sum += 150 + 40 * sin(0.09 * (u - 3 * frame)) + 25 * sin(0.13 * v);
            continue;
          }
          const fu = min(max(fine * u - 0.5, 0), tw - 1.001);
          const fv = min(max(fine * v - 0.5, 0), th - 1.001);
          const [i, j] = [floor(fu), floor(fv)];
          const [a, b] = [fu - i, fv - j];
          const at = j * tw + i;
          const level =
            (1 - b) * ((1 - a) * texture[at] + a * texture[at + 1]) +
            b * ((1 - a) * texture[at + tw] + a * texture[at + tw + 1]);
          const spot = reflections * max(sin(0.012 * (u + phase)) * sin(0.009 * v + 0.5), 0);
          sum += gain * (level + spot);
        }
        levels[y * w + x] = sum / looks;
      }
    if (blur > 1) {
      boxBlur(levels, w, h, blur, 1, w);
      boxBlur(levels, w, h, blur, w, 1);
    }
    const plane = makePlane(filmSize.width, filmSize.height);
    plane.data.set(ground.data);
    let seed = 1 + 7919 * frame;
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        // Four bytes added up are close enough to a normal distribution; their deviation is 147.8.
        let dice = -510;
        for (let k = 0; k < 4; k++) {
          seed = (imul(seed, 1664525) + 1013904223) >>> 0;
          dice += seed >>> 24;
        }
        const value = round(levels[y * w + x] + (grain * dice) / 147.8);
        plane.data[(top + y) * plane.stride + left + x] = min(max(value, 0), 255);
      }
    return plane;
  }
}

/** A running mean along one direction, `width` rounded down to an odd number of pixels and the rest shared by the ends. */
function boxBlur(data: Float32Array, w: number, h: number, width: number, step: number, line: number): void {
  const [length, lines] = step === 1 ? [w, h] : [h, w];
  const half = floor((width - 1) / 2);
  const ends = (width - 1 - 2 * half) / 2;
  const copy = new Float32Array(length);
  for (let l = 0; l < lines; l++) {
    const from = l * line;
    for (let i = 0; i < length; i++) copy[i] = data[from + i * step];
    for (let i = half + 1; i < length - half - 1; i++) {
      let sum = ends * (copy[i - half - 1] + copy[i + half + 1]);
      for (let k = -half; k <= half; k++) sum += copy[i + k];
      data[from + i * step] = sum / width;
    }
  }
}
