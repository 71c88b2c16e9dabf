import type { Mat3 } from '../geometry/mat3.js';

/** A plane inside the kernels' memory: `at` is a byte offset, `stride` bytes. */
export interface PlaneAt {
  at: number;
  width: number;
  height: number;
  stride: number;
}

/** A rectangle in corner-origin pixels. */
export interface Bounds {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** As the kernels number them: between two pixels, four, the nearest, and six (Catmull-Rom is the cubic, Lanczos-3 the six). */
export const resamplings = ['linear', 'cubic', 'nearest', 'lanczos'] as const;
export type Interpolation = (typeof resamplings)[number];

/** The same by the names that the trade has for them. */
export const resamplingNames = {
  nearest: 'nearest',
  bilinear: 'linear',
  bicubic: 'cubic',
  lanczos: 'lanczos',
} as const satisfies Record<string, Interpolation>;
export type Resampling = keyof typeof resamplingNames;

/** In place of what a pixel outside becomes: it is left as it is. */
export const kept = -1;

export interface Kernels {
  readonly memory: WebAssembly.Memory;
  /**
   * The WebAssembly twin of `warpPlane`, for rows `rowFrom` up to `rowTo`. Planes need 64 spare bytes after
   * their last row. A `fill` of `kept` leaves what lies outside as it is.
   */
  warpPlane(
    source: PlaneAt,
    target: PlaneAt,
    sourceFromTarget: Mat3,
    bounds: Bounds,
    interpolation: Interpolation,
    fill: number,
    rowFrom?: number,
    rowTo?: number,
  ): void;
  /** The same for planes of 16-bit levels, the brightest of which is `most`. */
  warpDeepPlane(
    source: PlaneAt,
    target: PlaneAt,
    sourceFromTarget: Mat3,
    bounds: Bounds,
    interpolation: Interpolation,
    fill: number,
    most: number,
    rowFrom?: number,
    rowTo?: number,
  ): void;
  /** Each pixel of the target the mean of a square of `times` by `times` of the source; `deep` planes have 16-bit levels. */
  shrinkPlane(source: PlaneAt, target: PlaneAt, times: number, deep: boolean): void;
  /**
   * Lets what was drawn fade into the plane `below`, of the same size, at the edges of `bounds`: from nothing there to all of it
   * `feather` source pixels within.
   */
  seamPlane(
    below: PlaneAt,
    drawn: PlaneAt,
    sourceFromTarget: Mat3,
    bounds: Bounds,
    feather: number,
    deep: boolean,
  ): void;
  /** Scales the levels above `black` of the target's pixels whose centre the matrix takes inside the bounds. */
  scalePlane(
    target: PlaneAt,
    sourceFromTarget: Mat3,
    bounds: Bounds,
    gain: number,
    black: number,
    most: number,
    deep: boolean,
  ): void;
  /** Marks with `most` the target's pixels whose centre the matrix takes inside the bounds, the others with 0. */
  coverPlane(
    target: PlaneAt,
    sourceFromTarget: Mat3,
    bounds: Bounds,
    most: number,
    deep: boolean,
    rowFrom?: number,
    rowTo?: number,
  ): void;
  /** Lays a row of a picture over luma from address `to` on. */
  layLuma(
    to: number,
    row: LaidRow,
    levels: { black: number; span: number; most: number; deep: boolean },
  ): void;
  /** The same over chroma from two addresses on. */
  layChroma(
    to: readonly [u: number, v: number],
    row: LaidRow,
    levels: { middle: number; blue: number; red: number; most: number; deep: boolean },
  ): void;
}

/** A row of places where a picture is laid. All addresses are bytes. */
export interface LaidRow {
  /** Single floats, one a place: how much of the picture is seen there. */
  alpha: number;
  count: number;
  /** Bytes of red, green, blue and alpha, multiplied by it. */
  picture: number;
  width: number;
  height: number;
  place: RowPlace;
}

/** Homogeneous pixel indices of a picture along a row: at the first place, and from one to the next. */
export interface RowPlace {
  x0: number;
  dx: number;
  y0: number;
  dy: number;
  w0: number;
  dw: number;
}

/** The kernels keep the first page for themselves: planes start here. */
export const kernelHeap = 65536;

/** What a picture of so many bytes takes: kernels read in groups, a little past a plane. */
export const spacedBytes = (bytes: number): number => (bytes + 127) & ~63;

/** Shared memory large enough for `bytes` of planes. */
export const makeKernelMemory = (bytes: number): WebAssembly.Memory =>
  new WebAssembly.Memory({ initial: 1 + Math.ceil((bytes + 64) / 65536), maximum: 65536, shared: true });

/**
 * Starts the compiled kernels on a memory. Several threads may each start their own on the same shared
 * memory and work on different rows or planes.
 */
export function startKernels(module: WebAssembly.Module, memory: WebAssembly.Memory): Kernels {
  const instance = new WebAssembly.Instance(module, { env: { memory, abort: stopped } });
  const warp = instance.exports.warpPlane as (...args: number[]) => void;
  const warpDeep = instance.exports.warpDeepPlane as (...args: number[]) => void;
  const shrink = instance.exports.shrinkPlane as (...args: number[]) => void;
  const cover = instance.exports.coverPlane as (...args: number[]) => void;
  const seam = instance.exports.seamPlane as (...args: number[]) => void;
  const scale = instance.exports.scalePlane as (...args: number[]) => void;
  const layLuma = instance.exports.layLuma as (...args: number[]) => void;
  const layChroma = instance.exports.layChroma as (...args: number[]) => void;
  const laid = ({ alpha, count, picture, width, height, place }: LaidRow): number[] => [
    ...[alpha, count, picture, width, height],
    ...[place.x0, place.dx, place.y0, place.dy, place.w0, place.dw],
  ];
  return {
    memory,
    layLuma: (to, row, { black, span, most, deep }) =>
      layLuma(to, ...laid(row), black, span, most, deep ? 1 : 0),
    layChroma: ([u, v], row, { middle, blue, red, most, deep }) =>
      layChroma(u, v, ...laid(row), middle, blue, red, most, deep ? 1 : 0),
    warpPlane(source, target, m, bounds, interpolation, fill, rowFrom = 0, rowTo = target.height) {
      const from = [source.at, source.width, source.height, source.stride];
      const to = [target.at, target.width, target.stride, rowFrom, rowTo];
      const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
      warp(...from, ...to, ...box, resamplings.indexOf(interpolation), fill, ...m);
    },
    warpDeepPlane(source, target, m, bounds, interpolation, fill, most, rowFrom = 0, rowTo = target.height) {
      const from = [source.at, source.width, source.height, source.stride];
      const to = [target.at, target.width, target.stride, rowFrom, rowTo];
      const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
      warpDeep(...from, ...to, ...box, resamplings.indexOf(interpolation), fill, most, ...m);
    },
    shrinkPlane(source, target, times, deep) {
      const to = [target.at, target.width, target.height, target.stride];
      shrink(source.at, source.stride, ...to, times, deep ? 1 : 0);
    },
    scalePlane(target, m, bounds, gain, black, most, deep) {
      const to = [target.at, target.width, target.stride, 0, target.height];
      const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
      scale(...to, ...box, gain, black, most, deep ? 1 : 0, ...m);
    },
    seamPlane(below, drawn, m, bounds, feather, deep) {
      const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
      seam(
        below.at,
        drawn.at,
        drawn.width,
        drawn.stride,
        0,
        drawn.height,
        ...box,
        feather,
        deep ? 1 : 0,
        ...m,
      );
    },
    coverPlane(target, m, bounds, most, deep, rowFrom = 0, rowTo = target.height) {
      const to = [target.at, target.width, target.stride, rowFrom, rowTo];
      cover(...to, bounds.left, bounds.top, bounds.right, bounds.bottom, most, deep ? 1 : 0, ...m);
    },
  };
}

function stopped(): never {
  throw new Error('A kernel stopped: it was given a plane outside its memory.');
}
