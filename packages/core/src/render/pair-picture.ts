import type { PictureSize } from '../framing/framing.js';
import { scaling } from '../geometry/mat3.js';
import { spacedBytes, type Kernels } from '../kernels/kernels.js';
import { OutputPictures, scratchBytes, type OutputOptions } from './output-picture.js';
import { blackOf, type PictureAt } from './warp-picture.js';
import { bytesOf, planeLayout, type YuvFormat } from './yuv-picture.js';

/** How two pictures are shown together: beside or above each other, or one over the other up to an edge that moves. */
export const pairLayouts = ['side', 'stack', 'wipe'] as const;
export type PairLayout = (typeof pairLayouts)[number];

/** Frames in which the edge of a wipe goes there and back. */
const wipePeriod = 150;

const even = (length: number): number => 2 * Math.round(length / 2);

/** The size of the second picture where it is shown: as high as the first beside it, as wide below it, the same for a wipe. */
function fittedSize(layout: PairLayout, before: PictureSize, after: PictureSize): PictureSize {
  if (layout === 'side')
    return { width: even((after.width * before.height) / after.height), height: before.height };
  if (layout === 'stack')
    return { width: before.width, height: even((after.height * before.width) / after.width) };
  return { width: before.width, height: before.height };
}

/** What two pictures come to together. */
export function pairFormat(layout: PairLayout, before: YuvFormat, after: PictureSize): YuvFormat {
  const fitted = fittedSize(layout, before, after);
  if (layout === 'side') return { ...before, width: before.width + fitted.width };
  if (layout === 'stack') return { ...before, height: before.height + fitted.height };
  return before;
}

/** Where the edge of a wipe is on a frame, as a share of the width: it rests at neither end. */
export const wipeEdgeAt = (frame: number): number =>
  0.5 - 0.5 * Math.cos((2 * Math.PI * (frame % wipePeriod)) / wipePeriod);

const fitting = (layout: PairLayout, before: PictureSize, after: YuvFormat): OutputOptions => {
  const size = fittedSize(layout, before, after);
  const scale = Math.min(size.width / after.width, size.height / after.height);
  return { source: after, size, interpolation: 'cubic', edge: 'stretch', scale };
};

export const pairScratchBytes = (layout: PairLayout, before: PictureSize, after: YuvFormat): number => {
  const options = fitting(layout, before, after);
  const { width, height } = options.size;
  return spacedBytes(4 * width * height * bytesOf(after.bits)) + scratchBytes(options);
};

/** Puts two pictures together, in the kernels' memory; of one subsampling and depth. */
export class PairPictures {
  private readonly fitted: PictureAt;
  private readonly fitter: OutputPictures;
  private readonly options: OutputOptions;
  private readonly format: YuvFormat;

  constructor(
    private readonly kernels: Kernels,
    private readonly layout: PairLayout,
    private readonly before: YuvFormat,
    after: YuvFormat,
    scratch: number,
  ) {
    this.options = fitting(layout, before, after);
    this.format = pairFormat(layout, before, after);
    const { width, height } = this.options.size;
    this.fitter = new OutputPictures(
      kernels,
      this.options,
      scratch + spacedBytes(4 * width * height * bytesOf(after.bits)),
    );
    this.fitted = { at: scratch, format: this.fitter.format };
  }

  make(frame: number, before: number, after: number, to: number): void {
    const { kernels, layout, options, fitted, format } = this;
    const { source, size } = options;
    this.fitter.make(after, fitted.at, scaling(size.width / source.width, size.height / source.height), null);
    const depth = bytesOf(format.bits);
    const bytes = new Uint8Array(kernels.memory.buffer);
    const [first, second] = [planeLayout(this.before), planeLayout(fitted.format)];
    planeLayout(format).forEach((plane, i) => {
      const row = (at: number, own: { offset: number; width: number }, y: number): number =>
        at + (own.offset + y * own.width) * depth;
      const stride = plane.width * depth;
      const [a, b] = [first[i], second[i]];
      const put = (from: number, pixels: number, y: number, x = 0): void =>
        void bytes.copyWithin(row(to, plane, y) + x * depth, from, from + pixels * depth);
      if (layout === 'stack') {
        for (let y = 0; y < a.height; y++) put(row(before, a, y), a.width, y);
        for (let y = 0; y < b.height; y++) put(row(fitted.at, b, y), b.width, a.height + y);
        return;
      }
      if (layout === 'side') {
        for (let y = 0; y < plane.height; y++) {
          put(row(before, a, y), a.width, y);
          put(row(fitted.at, b, y), b.width, y, a.width);
        }
        return;
      }
      const edge = 2 * Math.round((wipeEdgeAt(frame) * format.width) / 2);
      const left = Math.round((edge * plane.width) / format.width);
      for (let y = 0; y < plane.height; y++) {
        bytes.copyWithin(row(to, plane, y), row(before, a, y), row(before, a, y) + left * depth);
        put(row(fitted.at, b, y) + left * depth, plane.width - left, y, left);
      }
      if (left > 0 && left < plane.width) drawEdge(kernels, { at: to, format }, i, plane, left, stride);
    });
  }
}

/** A line two pixels wide, white, where the pictures meet. */
function drawEdge(
  { memory }: Kernels,
  { at, format }: PictureAt,
  i: number,
  plane: { offset: number; width: number; height: number },
  left: number,
  stride: number,
): void {
  const depth = bytesOf(format.bits);
  const white =
    i > 0
      ? blackOf(1, format.bits, format.range)
      : (format.range === 'limited' ? 235 : 255) << (format.bits - 8);
  const levels = depth === 1 ? new Uint8Array(memory.buffer, at) : new Uint16Array(memory.buffer, at);
  const wide = plane.width === format.width ? 1 : 0;
  for (let y = 0; y < plane.height; y++) {
    const row = plane.offset + (y * stride) / depth;
    levels.fill(white, row + Math.max(left - wide, 0), row + Math.min(left + 1, plane.width));
  }
}
