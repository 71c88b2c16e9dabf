import * as layout from '../../kernels/layout.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import { parameterCount, type WarpModel } from '../../geometry/warp-model.js';

/** Rows of descent of a box that may move so, and rows and columns of its normal matrix. */
export const rowsFor = (model: WarpModel): number => layout.exposureRows + parameterCount[model];

/** Pixels of a template as registration takes them: all, some so far apart, or runs of eight where most is to be seen. */
export interface PixelSet {
  /** Pixels from one to the next. */
  spacing: number;
  /** Odd, in steps of `spacing`, about the template's centre. */
  width: number;
  height: number;
  /** Runs of eight side by side, wherever in the box; else rows and columns. */
  inRuns: boolean;
  /** With the rows' padding: rows are filled up to whole vectors. */
  count: number;
  /** Grey levels less the mean; not a number in the padding and outside the picture. */
  level: number;
  /**
   * How each pixel answers, one row of `count` after another: to brightness, to contrast, then to each
   * parameter of motion.
   */
  descent: number;
  /** Address of the runs' first pixels, column and row from the centre; 0 where there are none. */
  gradientRuns: number;
  /** Which pixels of the whole grid these are, −1 in the padding; none where they are all. */
  from: Int32Array | null;
  /** How many of them lie in the picture. */
  pixels: number;
  /** Sum of its squared gradients. */
  energy: number;
  /** Address of what its normal matrix is damped by, n×n f64 for each unit of weight. */
  damping: number;
  /** Address of what the kernels are told of it. */
  record: number;
}

export type PixelSetSize = Pick<PixelSet, 'spacing' | 'width' | 'height' | 'inRuns' | 'count'>;

const recordBytes = 8 * layout.pixelSetLength;

/** A subsample has about so many pixels, and none of them farther apart. */
const subsamplePixels = 450;
const widestSubsample = 6;
/** Runs are this share of the pixels, within bounds; boxes of fewer pixels are taken as a whole. */
const runShare = 0.25;
const [leastInRuns, mostInRuns] = [400, 2000];
/** No more than this share of a template's contrast is taken for noise. */
const mostNoise = 0.5;
/** No sixteenth of the box has more than this share of the runs: something may come to cover it. */
const mostTogether = 0.25;

export const allOf = (width: number, height: number): PixelSetSize => {
  const count = ((width + 3) & ~3) * height;
  return { spacing: 1, width, height, inRuns: false, count };
};

/** A subsample of a box, its centre among the pixels; all of a small box. */
export function subsampleOf(width: number, height: number): PixelSetSize {
  const spacing = Math.min(
    Math.max(Math.round(Math.sqrt((width * height) / subsamplePixels)), 1),
    widestSubsample,
  );
  const [halfW, halfH] = [width >> 1, height >> 1].map((half) => Math.floor(half / spacing));
  return { ...allOf(2 * halfW + 1, 2 * halfH + 1), spacing };
}

/** Runs of a box; all of a small one. */
export function gradientRunsOf(width: number, height: number): PixelSetSize {
  const pixels = Math.min(Math.max(runShare * width * height, leastInRuns), mostInRuns);
  const most = Math.floor(width / layout.runLength) * height * layout.runLength;
  const all = allOf(width, height);
  return pixels >= most
    ? all
    : { ...all, inRuns: true, count: layout.runLength * Math.ceil(pixels / layout.runLength) };
}

/** Bytes that a grid takes with `rows` rows of descent. */
export const pixelSetBytes = ({ count }: PixelSetSize, rows: number): number =>
  (recordBytes + 8 * rows * rows + 4 * count * (rows + 1) + count + 63) & ~63;

/** A grid whose memory, `gridBytes`, begins at `at`. */
export function placePixelSet(at: number, size: PixelSetSize, rows: number): PixelSet {
  const damping = at + recordBytes;
  const level = damping + 8 * rows * rows;
  const descent = level + 4 * size.count;
  const gradientRuns = size.inRuns ? descent + 4 * size.count * rows : 0;
  const { spacing, width, height, inRuns, count } = size;
  return {
    spacing,
    width,
    height,
    inRuns,
    count,
    level,
    descent,
    gradientRuns,
    from: null,
    pixels: 0,
    energy: 0,
    damping,
    record: at,
  };
}

/** Tells the kernels of a grid, once its pixels are known. */
export function recordPixelSet(
  kernels: TrackKernels,
  pixelSet: PixelSet,
  { mean, reach, aspect, grain }: { mean: number; reach: number; aspect: number; grain: number },
): void {
  const { descent, level, count, width, height, spacing, gradientRuns, damping, record } = pixelSet;
  const levels = kernels.floats(level, count);
  let [pixels, sum] = [0, 0];
  for (let i = 0; i < count; i++) {
    const value = levels[i];
    if (value !== value) continue;
    pixels++;
    sum += value * value;
  }
  pixelSet.pixels = pixels;
  const contrast = sum / pixels;
  const noise = Math.min(grain, mostNoise * contrast);
  const told = new Float64Array(layout.pixelSetLength);
  told[layout.pixelSetDescent] = descent;
  told[layout.pixelSetLevel] = level;
  told[layout.pixelSetCount] = count;
  told[layout.pixelSetWidth] = width;
  told[layout.pixelSetHeight] = height;
  told[layout.pixelSetSpacing] = spacing;
  told[layout.pixelSetRuns] = gradientRuns;
  told[layout.pixelSetMean] = mean;
  told[layout.pixelSetReach] = reach;
  told[layout.pixelSetAspect] = aspect;
  told[layout.pixelSetGrain] = noise;
  told[layout.pixelSetDamping] = damping;
  kernels.putDoubles(record, told);
}

/** Which pixels of `full` the subsample has. */
export function subsampleIn(full: PixelSet, { spacing, width, height, count }: PixelSetSize): Int32Array {
  const columns = count / height;
  const fullColumns = full.count / full.height;
  const left = (full.width >> 1) - spacing * (width >> 1);
  const top = (full.height >> 1) - spacing * (height >> 1);
  const from = new Int32Array(count).fill(-1);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      from[y * columns + x] = (top + y * spacing) * fullColumns + left + x * spacing;
  return from;
}

/**
 * Which pixels of `full` are worth most: runs whose gradients tell most of either direction, so that few pixels hold
 * the box nearly as well as all (Dellaert & Collins 1999). Writes down where they begin, too.
 */
export function gradientRunsIn(kernels: TrackKernels, full: PixelSet, pixelSet: PixelSet): Int32Array {
  const { width, height } = full;
  const { count, gradientRuns } = pixelSet;
  const columns = full.count / height;
  const [alongX, alongY] = gradientsOf(kernels, full);
  const [wholeX, wholeY] = [squares(alongX) || 1, squares(alongY) || 1];
  const left = (width % layout.runLength) >> 1;
  const across = Math.floor(width / layout.runLength);
  const worth = new Float64Array(across * height);
  for (let y = 0, r = 0; y < height; y++)
    for (let c = 0; c < across; c++, r++)
      for (let i = y * columns + left + c * layout.runLength, end = i + layout.runLength; i < end; i++)
        worth[r] += alongX[i] ** 2 / wholeX + alongY[i] ** 2 / wholeY;
  const wanted = count / layout.runLength;
  const taken = new Uint32Array(16);
  const block = (r: number): number =>
    4 * Math.floor((4 * Math.floor(r / across)) / height) + Math.floor((4 * ((r % across) + 0.5)) / across);
  const found = Array.from(worth.keys()).sort((a, b) => worth[b] - worth[a]);
  const first = found.filter((r) => ++taken[block(r)] <= mostTogether * wanted);
  const chosen = (first.length >= wanted ? first : found).slice(0, wanted).sort((a, b) => a - b);
  const from = new Int32Array(count);
  const begins: number[] = [];
  chosen.forEach((r, k) => {
    const [x, y] = [left + (r % across) * layout.runLength, Math.floor(r / across)];
    begins.push(x - (width >> 1), y - (height >> 1));
    for (let i = 0; i < layout.runLength; i++) from[k * layout.runLength + i] = y * columns + x + i;
  });
  kernels.putIntegers(gradientRuns, begins);
  return from;
}

/** Takes a grid's pixels over from the whole one. */
export function takePixels(kernels: TrackKernels, full: PixelSet, pixelSet: PixelSet, rows: number): void {
  const { from, count, level, descent } = pixelSet;
  if (!from) return;
  const take = (source: Float32Array, target: Float32Array, none: number): void => {
    for (let i = 0; i < count; i++) target[i] = from[i] < 0 ? none : source[from[i]];
  };
  take(kernels.floats(full.level, full.count), kernels.floats(level, count), NaN);
  for (let k = 0; k < rows; k++)
    take(
      kernels.floats(full.descent + 4 * k * full.count, full.count),
      kernels.floats(descent + 4 * k * count, count),
      0,
    );
  pixelSet.energy = energyOf(kernels, pixelSet);
}

/** The slopes along x and y of each pixel. */
export const gradientsOf = (kernels: TrackKernels, { descent, count }: PixelSet): Float32Array[] =>
  [layout.exposureRows, layout.exposureRows + 1].map((row) =>
    kernels.floats(descent + 4 * row * count, count),
  );

export const energyOf = (kernels: TrackKernels, pixelSet: PixelSet): number =>
  gradientsOf(kernels, pixelSet).reduce((sum, slopes) => sum + squares(slopes), 0);

function squares(values: Float32Array): number {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i] * values[i];
  return sum;
}
