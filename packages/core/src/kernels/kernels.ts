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

export type Interpolation = 'linear' | 'cubic';

export interface Kernels {
  readonly memory: WebAssembly.Memory;
  /**
   * The WebAssembly twin of `warpPlane`, for rows `rowFrom` up to `rowTo`. Planes need 64 spare bytes after
   * their last row.
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
}

/** The kernels keep the first page for themselves: planes start here. */
export const kernelHeap = 65536;

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
  return {
    memory,
    warpPlane(source, target, m, bounds, interpolation, fill, rowFrom = 0, rowTo = target.height) {
      const from = [source.at, source.width, source.height, source.stride];
      const to = [target.at, target.width, target.stride, rowFrom, rowTo];
      const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
      warp(...from, ...to, ...box, interpolation === 'cubic' ? 1 : 0, fill, ...m);
    },
    warpDeepPlane(source, target, m, bounds, interpolation, fill, most, rowFrom = 0, rowTo = target.height) {
      const from = [source.at, source.width, source.height, source.stride];
      const to = [target.at, target.width, target.stride, rowFrom, rowTo];
      const box = [bounds.left, bounds.top, bounds.right, bounds.bottom];
      warpDeep(...from, ...to, ...box, interpolation === 'cubic' ? 1 : 0, fill, most, ...m);
    },
  };
}

function stopped(): never {
  throw new Error('A kernel stopped: it was given a plane outside its memory.');
}
