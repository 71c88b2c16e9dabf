import type { PictureSize } from '../framing/framing.js';
import { apply, invert, multiply, scaling, translation, type Mat3, type Point } from '../geometry/mat3.js';
import { spacedBytes, type Interpolation, type Kernels } from '../kernels/kernels.js';
import { middlePlace, rowKnots } from '../solve/row-motion.js';
import { blurPicture } from './blur-picture.js';
import {
  blackOf,
  warpPicture,
  type PictureAt,
  type PixelBox,
  type RowPlacement,
  type WarpOptions,
} from './warp-picture.js';
import { bytesOf, pictureBytes, planeLayout, type YuvFormat } from './yuv-picture.js';

/**
 * What a bare edge shows: nothing, black or not to be seen at all; the frame's border going on, mirrored, or blurred and large; or
 * what other frames of the clip show there.
 */
export const edgeKinds = ['black', 'transparent', 'stretch', 'mirror', 'blur', 'fill'] as const;
export type EdgeKind = (typeof edgeKinds)[number];

/** What shows where no frame fills an edge. */
export const unfilledKinds = ['mirror', 'stretch', 'blur', 'black'] as const;
export type UnfilledKind = (typeof unfilledKinds)[number];

export interface OutputOptions {
  source: YuvFormat;
  /** The output's size; the rest is the source's. */
  size: PictureSize;
  interpolation: Interpolation;
  edge: EdgeKind;
  /** Where edges are filled from other frames: what shows where none does; mirrored when left out. */
  unfilled?: UnfilledKind;
  /** Output pixels to a source pixel at the smallest zoom: below three quarters means of squares are taken. */
  scale: number;
}

type How = Omit<WarpOptions, 'beyond'>;

/** A picture of the output as ffmpeg takes it: with a fourth plane where edges are not to be seen. */
export const outputFormat = ({
  source,
  size,
  edge,
}: Pick<OutputOptions, 'source' | 'size' | 'edge'>): YuvFormat => ({
  ...source,
  ...size,
  alpha: edge === 'transparent',
});

/** How many times as large a picture is made before its squares are taken together. */
const timesLarger = ({ scale, interpolation }: OutputOptions): number =>
  interpolation === 'nearest' ? 1 : Math.max(1, Math.ceil(1 / scale - 0.3));

/** The frame is shrunk to about this width to be blurred, whatever its size: the proxy's looks like the clip's. */
const blurredWidth = 64;

const planned = (options: OutputOptions) => {
  const times = timesLarger(options);
  const target = outputFormat(options);
  const { source } = options;
  const large = { ...target, width: target.width * times, height: target.height * times };
  const shrinks = Math.max(1, Math.round(source.width / blurredWidth));
  const small = {
    ...source,
    alpha: false,
    width: 2 * Math.max(1, Math.floor(source.width / shrinks / 2)),
    height: 2 * Math.max(1, Math.floor(source.height / shrinks / 2)),
  };
  return { times, target, large, small };
};

const room = (format: YuvFormat): number => spacedBytes(pictureBytes(format));

/** Bytes that making pictures takes besides the pictures themselves. */
export function scratchBytes(options: OutputOptions): number {
  const { times, large, small } = planned(options);
  return (times > 1 ? room(large) : 0) + (options.edge === 'fill' ? room(large) : 0) + room(small);
}

/**
 * Makes the pictures of an output of frames, in the kernels' memory: resampled once, and whatever lies beyond a frame's edges
 * made up. What is smaller than the source is made several times as large by linear resampling, of which means are taken.
 */
export class OutputPictures {
  readonly format: YuvFormat;
  private readonly plan: ReturnType<typeof planned>;
  private readonly large: PictureAt;
  /** What lies below the frame, where its edges are filled. */
  private readonly below: PictureAt;
  private readonly small: PictureAt;

  constructor(
    private readonly kernels: Kernels,
    private readonly options: OutputOptions,
    scratch: number,
  ) {
    this.plan = planned(options);
    this.format = this.plan.target;
    this.large = { at: scratch, format: this.plan.large };
    const belowAt = scratch + (this.plan.times > 1 ? room(this.plan.large) : 0);
    this.below = { at: belowAt, format: this.plan.large };
    this.small = {
      at: belowAt + (options.edge === 'fill' ? room(this.plan.large) : 0),
      format: this.plan.small,
    };
  }

  /** Makes the picture at address `to` of the frame at `from`; `others` are frames that fill its edges, those in front last. */
  make(
    from: number,
    to: number,
    outputFromFrame: Mat3,
    byRows: RowPlacement | null,
    others: readonly OtherFrame[] = [],
  ): void {
    const { kernels, plan, options } = this;
    const { times } = plan;
    const source: PictureAt = { at: from, format: options.source };
    const target: PictureAt = { at: to, format: plan.target };
    const drawn = times > 1 ? this.large : target;
    const matrix = times > 1 ? multiply(scaling(times, times), outputFromFrame) : outputFromFrame;
    const interpolation = times > 1 ? ('linear' as const) : options.interpolation;
    const how = { interpolation, shrunk: times, byRows };
    const { edge } = options;
    if (edge === 'black' || edge === 'transparent')
      warpPicture(kernels, source, drawn, matrix, { ...how, beyond: 'black' });
    else if (edge === 'stretch') warpPicture(kernels, source, drawn, matrix, { ...how, beyond: 'stretched' });
    else {
      const bare = bareBoxes(matrix, byRows, options.source, drawn.format);
      if (edge === 'fill' && bare.length > 0) this.fill(source, drawn, matrix, bare, how, others);
      else if (bare.length > 0) {
        if (edge === 'mirror') for (const box of bare) this.mirror(source, drawn, matrix, box, how);
        else this.blur(source, drawn, bare, how);
      }
      if (edge !== 'fill' || bare.length === 0)
        warpPicture(kernels, source, drawn, matrix, { ...how, beyond: bare.length > 0 ? 'kept' : 'black' });
    }
    if (times > 1) this.shrink(target);
  }

  /** What other frames show beyond the edges, in this one's light, and made up what none shows; the frame fades into it. */
  private fill(
    source: PictureAt,
    drawn: PictureAt,
    matrix: Mat3,
    bare: readonly PixelBox[],
    how: How,
    others: readonly OtherFrame[],
  ): void {
    const { kernels, below, plan } = this;
    const feather = fillFeather * plan.times;
    const all = { left: 0, top: 0, right: drawn.format.width, bottom: drawn.format.height };
    const wider = bare.map(({ left, top, right, bottom }) =>
      evenBox(left - 2 * feather, top - 2 * feather, right + 2 * feather, bottom + 2 * feather, all),
    );
    const { unfilled = 'mirror' } = this.options;
    if (unfilled === 'blur') this.blur(source, below, wider, how);
    const beyond = unfilled === 'black' ? 'black' : unfilled === 'blur' ? 'kept' : 'stretched';
    for (const box of wider) {
      warpPicture(kernels, source, below, matrix, { ...how, beyond, box });
      if (unfilled === 'mirror') this.mirror(source, below, matrix, box, how, 'kept');
    }
    for (const { at, outputFromFrame } of others) {
      const other: PictureAt = { at, format: source.format };
      const placed =
        plan.times > 1 ? multiply(scaling(plan.times, plan.times), outputFromFrame) : outputFromFrame;
      const gain = lightBetween(kernels, { source, matrix }, { source: other, matrix: placed }, wider);
      for (const box of wider)
        warpPicture(kernels, other, below, placed, { ...how, byRows: null, beyond: 'kept', box, gain });
    }
    warpPicture(kernels, source, drawn, matrix, { ...how, beyond: 'black' });
    for (const box of wider)
      warpPicture(kernels, source, drawn, matrix, {
        ...how,
        beyond: 'black',
        box,
        seam: { below, feather: fillFeather },
      });
  }

  /** The frame again beyond its edges, turned over, as often as it takes. */
  private mirror(
    source: PictureAt,
    drawn: PictureAt,
    matrix: Mat3,
    box: PixelBox,
    how: How,
    before: 'kept' | 'black' = 'black',
  ): void {
    const { width, height } = source.format;
    if (before === 'black') blacken(this.kernels, drawn, box);
    const back = invert(matrix);
    for (let i = -mostMirrors; i <= mostMirrors; i++)
      for (let j = -mostMirrors; j <= mostMirrors; j++) {
        if (i === 0 && j === 0) continue;
        // Tile (i, j) is the frame turned over for each step aside; even steps are whole shifts.
        const tileFromFrame = multiply(turned(i, width, 0), turned(j, height, 1));
        const corners = cornersOf(width, height).map((p) => apply(multiply(matrix, tileFromFrame), p.x, p.y));
        const part = overlap(box, corners);
        if (!part) continue;
        const frameFromOutput = multiply(invert(tileFromFrame), back);
        // Rows go by the frame's own motion; what is made up need not.
        warpPicture(this.kernels, source, drawn, invert(frameFromOutput), {
          ...how,
          byRows: null,
          beyond: 'kept',
          box: part,
        });
      }
  }

  /** The whole frame, large enough to cover the output, and without any detail. */
  private blur(source: PictureAt, drawn: PictureAt, bare: readonly PixelBox[], how: How): void {
    const { kernels, small } = this;
    const { width, height } = source.format;
    shrinkInto(kernels, source, small);
    blurPicture(kernels, small);
    const { format } = drawn;
    const cover = Math.max(format.width / width, format.height / height);
    const [sx, sy] = [(cover * width) / small.format.width, (cover * height) / small.format.height];
    const outputFromSmall: Mat3 = [
      sx,
      0,
      (format.width - sx * small.format.width) / 2,
      0,
      sy,
      (format.height - sy * small.format.height) / 2,
      0,
      0,
      1,
    ];
    for (const box of bare)
      warpPicture(kernels, small, drawn, outputFromSmall, {
        ...how,
        interpolation: 'linear',
        byRows: null,
        beyond: 'stretched',
        box,
      });
  }

  private shrink(target: PictureAt): void {
    const { kernels, large, plan } = this;
    const depth = bytesOf(target.format.bits);
    const from = planeLayout(large.format);
    planeLayout(target.format).forEach((plane, i) => {
      const stride = plane.width * depth;
      const own = from[i];
      kernels.shrinkPlane(
        { ...own, at: large.at + own.offset * depth, stride: own.width * depth },
        { ...plane, at: target.at + plane.offset * depth, stride },
        plan.times,
        depth > 1,
      );
    });
  }
}

/** Source pixels over which a frame fades into what fills its edges. */
const fillFeather = 8;
/** Places at which the light of two frames is compared, in each box along each way. */
const lightPlaces = 24;

/** Another frame: where its picture is, and where that lies in the output. */
export interface OtherFrame {
  at: number;
  outputFromFrame: Mat3;
}

/** By how much another frame is to be lit to be as light as the frame is, where both are seen about some boxes. */
function lightBetween(
  { memory }: Kernels,
  own: { source: PictureAt; matrix: Mat3 },
  other: { source: PictureAt; matrix: Mat3 },
  boxes: readonly PixelBox[],
): number {
  const { format } = own.source;
  const depth = bytesOf(format.bits);
  const black = blackOf(0, format.bits, format.range);
  const sums = [0, 0];
  const [ownBack, otherBack] = [invert(own.matrix), invert(other.matrix)];
  const levels = [own, other].map(({ source }) =>
    depth === 1 ? new Uint8Array(memory.buffer, source.at) : new Uint16Array(memory.buffer, source.at),
  );
  for (const { left, top, right, bottom } of boxes)
    for (let j = 0; j < lightPlaces; j++)
      for (let i = 0; i < lightPlaces; i++) {
        const x = left + ((i + 0.5) / lightPlaces) * (right - left);
        const y = top + ((j + 0.5) / lightPlaces) * (bottom - top);
        const places = [apply(ownBack, x, y), apply(otherBack, x, y)];
        if (places.some((p) => p.x < 0 || p.y < 0 || p.x >= format.width || p.y >= format.height)) continue;
        places.forEach((p, which) => {
          sums[which] += Math.max(levels[which][Math.floor(p.y) * format.width + Math.floor(p.x)] - black, 0);
        });
      }
  return sums[0] > 0 && sums[1] > 0 ? Math.min(Math.max(sums[0] / sums[1], 0.8), 1.25) : 1;
}

/** A frame that is seen so much smaller than the output that more of it turned over would show is black beyond. */
const mostMirrors = 2;

/** A length turned over for each step aside, along x or y. */
function turned(step: number, length: number, axis: 0 | 1): Mat3 {
  const isOver = step % 2 !== 0;
  const shift = isOver ? (step + 1) * length : step * length;
  const factor = isOver ? -1 : 1;
  return axis === 0
    ? multiply(translation(shift, 0), scaling(factor, 1))
    : multiply(translation(0, shift), scaling(1, factor));
}

const cornersOf = (width: number, height: number): Point[] =>
  [0, width].flatMap((x) => [0, height].map((y) => ({ x, y })));

/** The part of a box that points lie about; null where that is nothing. */
function overlap(box: PixelBox, points: readonly Point[]): PixelBox | null {
  const [xs, ys] = [points.map((p) => p.x), points.map((p) => p.y)];
  const part = evenBox(
    Math.max(box.left, Math.min(...xs)),
    Math.max(box.top, Math.min(...ys)),
    Math.min(box.right, Math.max(...xs)),
    Math.min(box.bottom, Math.max(...ys)),
    box,
  );
  return part.left < part.right && part.top < part.bottom ? part : null;
}

/** The even box about what is given, inside another. */
const evenBox = (left: number, top: number, right: number, bottom: number, within: PixelBox): PixelBox => ({
  left: Math.max(within.left, 2 * Math.floor(left / 2)),
  top: Math.max(within.top, 2 * Math.floor(top / 2)),
  right: Math.min(within.right, 2 * Math.ceil(right / 2)),
  bottom: Math.min(within.bottom, 2 * Math.ceil(bottom / 2)),
});

/** Boxes that together hold all of the output that a frame does not reach; none where it reaches everything. */
export function bareBoxes(
  outputFromFrame: Mat3,
  byRows: RowPlacement | null,
  frame: PictureSize,
  output: PictureSize,
): PixelBox[] {
  const { width, height } = frame;
  const all = { left: 0, top: 0, right: output.width, bottom: output.height };
  const side = (from: Point, to: Point): Point[] =>
    Array.from({ length: rowKnots }, (_, i) => {
      const t = i / (rowKnots - 1);
      const p = { x: from.x + t * (to.x - from.x), y: from.y + t * (to.y - from.y) };
      const m = byRows ? middlePlace(byRows.rows, byRows.frame, p) : p;
      const depth = outputFromFrame[6] * m.x + outputFromFrame[7] * m.y + outputFromFrame[8];
      return depth > 0 ? apply(outputFromFrame, m.x, m.y) : { x: NaN, y: NaN };
    });
  const [a, b, c, d] = [
    { x: 0, y: 0 },
    { x: width, y: 0 },
    { x: width, y: height },
    { x: 0, y: height },
  ];
  const [top, right, bottom, left] = [side(a, b), side(b, c), side(d, c), side(a, d)];
  // What is turned far, or seen from behind, may be bare anywhere.
  const isPlain = [top, right, bottom, left].every((points) => points.every((p) => Number.isFinite(p.x)));
  const ends = [...top, ...bottom];
  if (!isPlain || Math.max(...left.map((p) => p.x)) > Math.min(...right.map((p) => p.x)) || ends.length === 0)
    return [all];
  // A pixel more, as bent sides may reach a little farther between their knots.
  const inner = {
    left: Math.max(...left.map((p) => p.x)) + 1,
    top: Math.max(...top.map((p) => p.y)) + 1,
    right: Math.min(...right.map((p) => p.x)) - 1,
    bottom: Math.min(...bottom.map((p) => p.y)) - 1,
  };
  if (inner.top > inner.bottom) return [all];
  return [
    evenBox(0, 0, inner.left > 1 ? inner.left : 0, output.height, all),
    evenBox(inner.right < output.width - 1 ? inner.right : output.width, 0, output.width, output.height, all),
    evenBox(0, 0, output.width, inner.top > 1 ? inner.top : 0, all),
    evenBox(
      0,
      inner.bottom < output.height - 1 ? inner.bottom : output.height,
      output.width,
      output.height,
      all,
    ),
  ].filter((box) => box.left < box.right && box.top < box.bottom);
}

function blacken({ memory }: Kernels, { at, format }: PictureAt, box: PixelBox): void {
  const depth = bytesOf(format.bits);
  const levels = depth === 1 ? new Uint8Array(memory.buffer, at) : new Uint16Array(memory.buffer, at);
  planeLayout(format).forEach((plane, i) => {
    if (i === 3) return;
    const [across, down] = [format.width / plane.width, format.height / plane.height].map(Math.round);
    const black = blackOf(i, format.bits, format.range);
    for (let y = Math.floor(box.top / down); y < Math.min(Math.ceil(box.bottom / down), plane.height); y++) {
      const row = plane.offset + y * plane.width;
      levels.fill(
        black,
        row + Math.floor(box.left / across),
        row + Math.min(Math.ceil(box.right / across), plane.width),
      );
    }
  });
}

/** A picture made smaller by means of squares, as large ones as fit. */
function shrinkInto(kernels: Kernels, source: PictureAt, target: PictureAt): void {
  const depth = bytesOf(source.format.bits);
  const own = planeLayout(source.format);
  planeLayout(target.format).forEach((plane, i) => {
    const from = own[i];
    const times = Math.max(
      1,
      Math.min(Math.floor(from.width / plane.width), Math.floor(from.height / plane.height)),
    );
    kernels.shrinkPlane(
      { ...from, at: source.at + from.offset * depth, stride: from.width * depth },
      { ...plane, at: target.at + plane.offset * depth, stride: plane.width * depth },
      times,
      depth > 1,
    );
  });
}
