import { blended } from '../dress/blend.js';
import {
  textScale,
  type Colour,
  type ColourContent,
  type ColourKey,
  type CoverContent,
} from '../dress/layer.js';
import type { DressOperation, MaskRecipe } from '../dress/operations.js';
import { apply, multiply, scaling, type Mat3, type Point } from '../geometry/mat3.js';
import { PictureSampler, PlainSampler, type LayerPicture, type Sampler } from './picture-sampler.js';
import { maskBox, maskIn, type Mask } from './shape-mask.js';
import type { PixelBox } from './warp-picture.js';
import { lumaFromChroma, planeLayout, type PlaneLayout, type YuvFormat } from './yuv-picture.js';

/** A picture that is dressed where it lies. */
interface Dressed {
  levels: Uint8Array | Uint16Array;
  format: YuvFormat;
  planes: PlaneLayout[];
}

/** BT.709: luma of red, green and blue, and what scales their differences from it to chroma. */
const [wr, wg, wb] = [0.2126, 0.7152, 0.0722];
const [cb, cr] = [1 / 1.8556, 1 / 1.5748];

/** Levels of black and white, of chroma from its middle, by bits and range. */
function levelsOf({ bits, range }: YuvFormat) {
  const unit = 1 << (bits - 8);
  return range === 'limited'
    ? { black: 16 * unit, luma: 219 * unit, middle: 128 * unit, chroma: 224 * unit, most: 256 * unit - 1 }
    : { black: 0, luma: 255 * unit, middle: 128 * unit, chroma: 255 * unit, most: 256 * unit - 1 };
}

/** A colour as levels of luma and chroma, not rounded. */
function yuvOf([r, g, b]: Colour, format: YuvFormat): [number, number, number] {
  const { black, luma, middle, chroma } = levelsOf(format);
  const y = wr * r + wg * g + wb * b;
  return [black + luma * y, middle + chroma * (b - y) * cb, middle + chroma * (r - y) * cr];
}

/**
 * Does operations to a picture, in order, where it lies: planar luma and chroma, eight bits or more. Operations are in pixels of
 * the clip, the picture may be smaller by `scale`. Where a mask is nothing no level changes.
 */
export function dressPicture(
  levels: Uint8Array | Uint16Array,
  format: YuvFormat,
  operations: readonly DressOperation[],
  pictures: ReadonlyMap<string, LayerPicture>,
  scale: { x: number; y: number } = { x: 1, y: 1 },
): void {
  const dressed: Dressed = { levels, format, planes: planeLayout({ ...format, alpha: false }) };
  for (const given of operations) {
    const operation = given.content.kind === 'text' ? asPicture(given, pictures) : given;
    if (!operation) continue;
    const recipe = scaledMask(operation.mask, scale);
    const box = maskBox(recipe, format);
    if (!box) continue;
    const mask = maskIn(recipe, box);
    if (operation.opacity < 1) mask.alpha.forEach((v, i) => (mask.alpha[i] = v * operation.opacity));
    const { matte, key } = operation;
    if (matte) holdOut(mask, maskIn(scaledMask(matte.mask, scale), box), matte.keep);
    if (key) holdOut(mask, keyedIn(dressed, box, key), key.keep);
    const { content } = operation;
    if (content.kind === 'colour') recolour(dressed, mask, content);
    else if (content.kind === 'text') continue;
    else if (content.kind === 'picture') {
      const picture = pictures.get(content.asset);
      const matrix = multiply(scaling(scale.x, scale.y), content.frameFromPicture);
      if (picture) lay(dressed, mask, new PictureSampler(picture, matrix), operation.blend);
    } else if (operation.blend === 'normal') cover(dressed, mask, content, scale, originOf(recipe));
    else lay(dressed, mask, new PlainSampler(...content.colour), operation.blend);
  }
}

/** Keeps a mask inside or outside of another of the same box. */
function holdOut({ alpha }: Mask, other: Mask, keep: 'inside' | 'outside'): void {
  for (let i = 0; i < alpha.length; i++) alpha[i] *= keep === 'inside' ? other.alpha[i] : 1 - other.alpha[i];
}

/** How much the picture in a box is of a colour, by how far off it the chroma is. */
function keyedIn(
  { levels, format, planes }: Dressed,
  box: PixelBox,
  { colour, range, softness }: ColourKey,
): Mask {
  const { chroma } = levelsOf(format);
  const [, blue, red] = yuvOf(colour, format);
  const [, u, v] = planes;
  const across = Math.round(format.width / u.width);
  const down = Math.round(format.height / u.height);
  const width = box.right - box.left;
  const alpha = new Float32Array(width * (box.bottom - box.top));
  const reach = Math.max(softness, 1e-6);
  for (let y = box.top; y < box.bottom; y++)
    for (let x = box.left; x < box.right; x++) {
      const at = Math.floor(y / down) * u.width + Math.floor(x / across);
      const off = Math.hypot(levels[u.offset + at] - blue, levels[v.offset + at] - red) / chroma;
      const t = Math.min(Math.max((off - range) / reach, 0), 1);
      alpha[(y - box.top) * width + x - box.left] = 1 - t * t * (3 - 2 * t);
    }
  return { box, alpha };
}

/** Words as a picture in a quad of its size; null where there is no picture of them. */
function asPicture(
  operation: DressOperation,
  pictures: ReadonlyMap<string, LayerPicture>,
): DressOperation | null {
  const { content, mask } = operation;
  if (content.kind !== 'text') return operation;
  const picture = pictures.get(content.asset);
  if (!picture) return null;
  const [w, h] = [picture.width / textScale, picture.height / textScale];
  const square: Mat3 = [w, 0, -w / 2, 0, h, -h / 2, 0, 0, 1];
  const frameFromPicture = multiply(content.frameFromMiddle, square);
  const corners = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ].map(([x, y]) => apply(frameFromPicture, x, y));
  const outlines = mask.outlines.length > 0 ? mask.outlines : [{ points: corners, cut: false }];
  return {
    ...operation,
    mask: { ...mask, outlines },
    content: { kind: 'picture', asset: content.asset, frameFromPicture },
  };
}

const scaledMask = (mask: MaskRecipe, { x, y }: { x: number; y: number }): MaskRecipe => {
  const mean = Math.sqrt(x * y);
  return {
    ...mask,
    featherIn: mask.featherIn * mean,
    featherOut: mask.featherOut * mean,
    choke: mask.choke * mean,
    outlines: mask.outlines.map(({ points, cut }) => ({
      points: points.map((p) => ({ x: p.x * x, y: p.y * y })),
      cut,
    })),
  };
};

/** The part of a plane that a box of luma lies over. */
interface PlanePart {
  plane: PlaneLayout;
  /** Luma pixels to a sample, across and down. */
  across: number;
  down: number;
  left: number;
  top: number;
  width: number;
  height: number;
  alpha: Float32Array;
}

/** A mask at each plane's own size. Chroma that is sited left takes a quarter of both neighbours, else the mean. */
function partsOf({ planes, format }: Dressed, { box, alpha }: Mask): PlanePart[] {
  const [first, u, v] = planes;
  const width = box.right - box.left;
  const height = box.bottom - box.top;
  const whole = { plane: first, across: 1, down: 1, left: box.left, top: box.top, width, height, alpha };
  const across = Math.round(format.width / u.width);
  const down = Math.round(format.height / u.height);
  const [left, top] = [Math.floor(box.left / across), Math.floor(box.top / down)];
  const w = Math.min(Math.ceil(box.right / across), u.width) - left;
  const h = Math.min(Math.ceil(box.bottom / down), u.height) - top;
  const own = new Float32Array(w * h);
  const isLeft = across === 2 && format.siting === 'left';
  for (let y = 0; y < h; y++)
    for (let dy = 0; dy < down; dy++) {
      const row = Math.min(y * down + dy, height - 1) * width;
      for (let x = 0; x < w; x++) {
        const at = row + Math.min(x * across, width - 1);
        const next = across === 2 && x * 2 + 1 < width ? alpha[at + 1] : alpha[at];
        const sum = isLeft ? (alpha[x > 0 ? at - 1 : at] + 2 * alpha[at] + next) / 4 : (alpha[at] + next) / 2;
        own[y * w + x] += sum / down;
      }
    }
  const part = { across, down, left, top, width: w, height: h, alpha: own };
  return [whole, { ...part, plane: u }, { ...part, plane: v }];
}

/** Changes each level of a part where its mask is anything, by as much as it is. */
function change(
  levels: Uint8Array | Uint16Array,
  { plane, left, top, width, height, alpha }: PlanePart,
  most: number,
  wanted: (level: number, x: number, y: number) => number,
): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const a = alpha[y * width + x];
      if (a === 0) continue;
      const at = plane.offset + (top + y) * plane.width + left + x;
      const level = levels[at];
      levels[at] = Math.min(Math.max(Math.round(level + a * (wanted(level, x, y) - level)), 0), most);
    }
}

/** The upper left corner about outlines: squares ride along with it. */
const originOf = ({ outlines }: MaskRecipe): Point => {
  const points = outlines.flatMap((one) => one.points);
  return points.length === 0
    ? { x: 0, y: 0 }
    : { x: Math.min(...points.map((p) => p.x)), y: Math.min(...points.map((p) => p.y)) };
};

/** Hides what is there. */
function cover(
  dressed: Dressed,
  mask: Mask,
  { how, colour, strength }: CoverContent,
  scale: { x: number; y: number },
  origin: Point,
): void {
  const { levels, format } = dressed;
  const { most } = levelsOf(format);
  const side = Math.max(1, strength * Math.sqrt(scale.x * scale.y));
  const plain = yuvOf(colour, format);
  partsOf(dressed, mask).forEach((part, i) => {
    if (how === 'plain') return change(levels, part, most, () => plain[i]);
    if (how === 'averaged') {
      const mean = meanOf(levels, part);
      return change(levels, part, most, () => mean);
    }
    const made =
      how === 'mosaic'
        ? mosaicOf(levels, part, side, origin)
        : blurOf(levels, part, side, how === 'blur' ? Math.ceil(2 * side) : 0);
    change(levels, part, most, (_, x, y) => made[y * part.width + x]);
  });
}

/** What a part comes to on average, by how much of it is covered. */
function meanOf(
  levels: Uint8Array | Uint16Array,
  { plane, left, top, width, height, alpha }: PlanePart,
): number {
  let [sum, weight] = [0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const a = alpha[y * width + x];
      sum += a * levels[plane.offset + (top + y) * plane.width + left + x];
      weight += a;
    }
  return weight > 0 ? sum / weight : 0;
}

/** Squares of one level each, so many luma pixels wide, from an origin on. */
function mosaicOf(
  levels: Uint8Array | Uint16Array,
  part: PlanePart,
  side: number,
  origin: Point,
): Float32Array {
  const { plane, left, top, width, height, across, down } = part;
  const column = (x: number): number => Math.floor(((left + x + 0.5) * across - origin.x) / side);
  const row = (y: number): number => Math.floor(((top + y + 0.5) * down - origin.y) / side);
  const [first, above] = [column(0), row(0)];
  const columns = column(width - 1) - first + 1;
  const rows = row(height - 1) - above + 1;
  const sums = new Float64Array(columns * rows);
  const counts = new Float64Array(columns * rows);
  const cells = Int32Array.from({ length: width }, (_, x) => column(x) - first);
  for (let y = 0; y < height; y++) {
    const at = (row(y) - above) * columns;
    for (let x = 0; x < width; x++) {
      sums[at + cells[x]] += levels[plane.offset + (top + y) * plane.width + left + x];
      counts[at + cells[x]]++;
    }
  }
  const made = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    const at = (row(y) - above) * columns;
    for (let x = 0; x < width; x++) made[y * width + x] = sums[at + cells[x]] / counts[at + cells[x]];
  }
  return made;
}

/** Three box means one after another, which come near a Gaussian; edges of the picture go on. */
function blurOf(
  levels: Uint8Array | Uint16Array,
  part: PlanePart,
  radius: number,
  margin: number,
): Float32Array {
  const { plane, left, top, width, height, across, down } = part;
  const [mx, my] = [Math.ceil(margin / across), Math.ceil(margin / down)];
  const [w, h] = [width + 2 * mx, height + 2 * my];
  let now: Float32Array = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const row = plane.offset + Math.min(Math.max(top + y - my, 0), plane.height - 1) * plane.width;
    for (let x = 0; x < w; x++)
      now[y * w + x] = levels[row + Math.min(Math.max(left + x - mx, 0), plane.width - 1)];
  }
  for (let pass = 0; pass < 3; pass++) {
    now = boxMeans(now, w, h, 1, Math.max(1, Math.round(radius / across / 1.7)));
    now = boxMeans(now, w, h, w, Math.max(1, Math.round(radius / down / 1.7)));
  }
  const made = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    made.set(now.subarray((y + my) * w + mx, (y + my) * w + mx + width), y * width);
  return made;
}

/** Means over so many on either side, along rows (`step` 1) or columns. */
function boxMeans(
  values: Float32Array,
  width: number,
  height: number,
  step: number,
  reach: number,
): Float32Array {
  const made = new Float32Array(values.length);
  const [length, lines] = step === 1 ? [width, height] : [height, width];
  for (let line = 0; line < lines; line++) {
    const base = step === 1 ? line * width : line;
    const at = (i: number): number => values[base + Math.min(Math.max(i, 0), length - 1) * step];
    let sum = 0;
    for (let i = -reach; i <= reach; i++) sum += at(i);
    for (let i = 0; i < length; i++) {
      made[base + i * step] = sum / (2 * reach + 1);
      sum += at(i + reach + 1) - at(i - reach);
    }
  }
  return made;
}

/** Turns and stretches chroma, and bends luma. */
function recolour(dressed: Dressed, mask: Mask, content: ColourContent): void {
  const { levels, format } = dressed;
  const { black, luma, middle, most } = levelsOf(format);
  const { hue, saturation, contrast, brightness, tint, tintAmount } = content;
  const [, tintU, tintV] = yuvOf(tint, format);
  const [c, s] = [saturation * Math.cos(hue), saturation * Math.sin(hue)];
  const [first, u, v] = partsOf(dressed, mask);
  change(levels, first, most, (level) => {
    const t = (level - black) / luma;
    return black + luma * Math.min(Math.max((t - 0.5) * contrast + 0.5 + brightness, 0), 1);
  });
  // Both planes turn together: what they were is kept until both are changed.
  const was = new Float32Array(u.width * u.height);
  for (let y = 0; y < u.height; y++)
    for (let x = 0; x < u.width; x++)
      was[y * u.width + x] = levels[u.plane.offset + (u.top + y) * u.plane.width + u.left + x];
  const tinted = (level: number, to: number): number => level + tintAmount * (to - level);
  change(levels, u, most, (level, x, y) => {
    const other = levels[v.plane.offset + (v.top + y) * v.plane.width + v.left + x];
    return tinted(middle + c * (level - middle) - s * (other - middle), tintU);
  });
  change(levels, v, most, (level, x, y) => {
    const other = was[y * u.width + x];
    return tinted(middle + s * (other - middle) + c * (level - middle), tintV);
  });
}

/** Lays colours over a picture by a blend mode. */
function lay(dressed: Dressed, mask: Mask, sampler: Sampler, blend: DressOperation['blend']): void {
  if (blend === 'normal') layPlainly(dressed, mask, sampler);
  else layBlended(dressed, mask, sampler, blend);
}

/** Luma and chroma each take the colour at their own places. */
function layPlainly(dressed: Dressed, mask: Mask, sampler: Sampler): void {
  const { levels, format } = dressed;
  const { black, luma, middle, chroma, most } = levelsOf(format);
  const [first, u, v] = partsOf(dressed, mask);
  for (let y = 0; y < first.height; y++) {
    sampler.begin(first.left + 0.5, first.top + y + 0.5, 1, first.width);
    const row = first.plane.offset + (first.top + y) * first.plane.width + first.left;
    for (let x = 0; x < first.width; x++) {
      const m = first.alpha[y * first.width + x];
      if (m === 0) continue;
      sampler.take(x);
      const { a } = sampler;
      if (a === 0) continue;
      const t = wr * sampler.r + wg * sampler.g + wb * sampler.b;
      const level = levels[row + x] + m * (a * (black - levels[row + x]) + luma * t);
      levels[row + x] = level < 0 ? 0 : level > most ? most : level + 0.5;
    }
  }
  const [across, , shift, , down] = lumaFromChroma(format);
  for (let y = 0; y < u.height; y++) {
    sampler.begin(across * (u.left + 0.5) + shift, down * (u.top + y + 0.5), across, u.width);
    const row = (u.top + y) * u.plane.width + u.left;
    for (let x = 0; x < u.width; x++) {
      const m = u.alpha[y * u.width + x];
      if (m === 0) continue;
      sampler.take(x);
      const { r, g, b, a } = sampler;
      if (a === 0) continue;
      const t = wr * r + wg * g + wb * b;
      const i = u.plane.offset + row + x;
      const j = v.plane.offset + row + x;
      const blue = levels[i] + m * (a * (middle - levels[i]) + chroma * cb * (b - t));
      const red = levels[j] + m * (a * (middle - levels[j]) + chroma * cr * (r - t));
      levels[i] = blue < 0 ? 0 : blue > most ? most : blue + 0.5;
      levels[j] = red < 0 ? 0 : red > most ? most : red + 0.5;
    }
  }
}

/** In red, green and blue; what that changes is written back, so that where nothing is laid nothing changes. */
function layBlended(
  dressed: Dressed,
  { box, alpha }: Mask,
  sampler: Sampler,
  blend: DressOperation['blend'],
): void {
  const { levels, format, planes } = dressed;
  const { black, luma, middle, chroma, most } = levelsOf(format);
  const mix = blended[blend];
  // Light is added by as much as there is of it, not by a share of the sum.
  const isAdded = blend === 'plus-lighter';
  const [first, u, v] = planes;
  const across = Math.round(format.width / u.width);
  const down = Math.round(format.height / u.height);
  const width = box.right - box.left;
  const columns = Math.ceil(width / across);
  // What the colours of a row of chroma samples change by, added up over their pixels.
  const [du, dv] = [new Float32Array(columns), new Float32Array(columns)];
  const change = (below: number, laid: number, share: number): number => {
    const base = below < 0 ? 0 : below > 1 ? 1 : below;
    return isAdded ? Math.min(1, base + share * laid) - base : share * (mix(base, laid) - base);
  };
  for (let top = box.top; top < box.bottom; top += down) {
    du.fill(0);
    dv.fill(0);
    const row = Math.floor(top / down) * u.width + Math.floor(box.left / across);
    for (let y = top; y < Math.min(top + down, box.bottom); y++) {
      sampler.begin(box.left + 0.5, y + 0.5, 1, width);
      for (let x = 0; x < width; x++) {
        const m = alpha[(y - box.top) * width + x];
        if (m === 0) continue;
        sampler.take(x);
        const { a } = sampler;
        const share = m * a;
        if (share === 0) continue;
        const k = first.offset + y * first.width + box.left + x;
        const c = Math.floor(x / across);
        const t = (levels[k] - black) / luma;
        const red = t + (levels[v.offset + row + c] - middle) / (chroma * cr);
        const blue = t + (levels[u.offset + row + c] - middle) / (chroma * cb);
        const green = (t - wr * red - wb * blue) / wg;
        const dr = change(red, sampler.r / a, share);
        const dg = change(green, sampler.g / a, share);
        const db = change(blue, sampler.b / a, share);
        const dy = wr * dr + wg * dg + wb * db;
        levels[k] = Math.min(Math.max(Math.round(levels[k] + luma * dy), 0), most);
        du[c] += (db - dy) * cb;
        dv[c] += (dr - dy) * cr;
      }
    }
    const count = across * down;
    for (let c = 0; c < columns; c++) {
      if (du[c] === 0 && dv[c] === 0) continue;
      const [i, j] = [u.offset + row + c, v.offset + row + c];
      levels[i] = Math.min(Math.max(Math.round(levels[i] + (chroma * du[c]) / count), 0), most);
      levels[j] = Math.min(Math.max(Math.round(levels[j] + (chroma * dv[c]) / count), 0), most);
    }
  }
}
