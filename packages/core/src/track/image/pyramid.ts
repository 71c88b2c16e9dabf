import type { TrackKernels } from '../../kernels/track-kernels.js';
import { patchBytes, mapPlane, type MappedPlane } from './patch.js';

/** The small copies of a whole picture are about this wide, where nothing else is asked for. */
const smallWidth = 400;
const mostLevels = 4;
/** Bytes from one level's entry in a pyramid's table to the next. */
export const levelEntry = 16;
/** The light does not change by more than this from one picture to the next. */
const mostRelit = 2;
/** Differences of so many grey levels are noise. */
export const noise = 1.5;

/** Small copies of a picture in the kernels' memory. */
export interface Pyramid {
  bytes: number;
  /** Its memory, at whose start are address, width, height, stride of each level, finest first. */
  table: number;
  planes: { at: number; width: number; height: number }[];
}

/** A picture halved until it is less than twice as wide as is asked for, and halved on from there. */
export function buildPyramid(
  kernels: TrackKernels,
  picture: MappedPlane,
  workingWidth = smallWidth,
  levels = mostLevels,
): Pyramid {
  const { width, height } = picture;
  const sizes = [{ width, height }];
  let { stride } = picture;
  let at = picture.wasmAddress ?? mapPlane(kernels, picture, 'whole picture').wasmAddress;
  const halve = (to: number): void => {
    const size = sizes[sizes.length - 1];
    kernels.halvePlane(at, stride, size.width, size.height, to);
    at = to;
    stride = size.width >> 1;
    sizes.push({ width: size.width >> 1, height: size.height >> 1 });
  };
  while (sizes[sizes.length - 1].width >= 2 * workingWidth) {
    const { width: w, height: h } = sizes[sizes.length - 1];
    halve(kernels.scratch(`whole picture ${sizes.length}`, patchBytes(w >> 1, h >> 1)));
  }
  const finest = sizes[sizes.length - 1];
  const count = Math.max(
    1,
    Math.min(levels, Math.floor(Math.log2(Math.min(finest.width, finest.height) / 8))),
  );
  const bytes = 2 * patchBytes(finest.width, finest.height) + 64 * count + 1024;
  const table = kernels.alloc(bytes);
  const planes: Pyramid['planes'] = [];
  let next = table + 64 * count;
  for (let level = 0; level < count; level++) {
    if (level === 0) {
      for (let y = 0; y < finest.height; y++)
        kernels.copyWithin(next + y * finest.width, at + y * stride, finest.width);
      at = next;
      stride = finest.width;
    } else halve(next);
    const size = sizes[sizes.length - 1];
    planes.push({ at, ...size });
    next += (size.width * size.height + 127) & ~63;
  }
  kernels.putIntegers(table, tableOf(planes));
  return { bytes, table, planes };
}

/**
 * What windows about places (x, y; x, y; …) of the finest level show, two numbers each: the squared slope along the direction
 * that has least of it, squared grey levels a pixel, and the mean deviation of the levels. A view: it holds until the next
 * `alloc` or `room`.
 */
export function textureIn(
  kernels: TrackKernels,
  { planes: [{ at, width, height }] }: Pyramid,
  places: Float64Array,
  window: number,
): Float32Array {
  const count = places.length / 2;
  const points = kernels.scratch('texture points', 16 * count);
  const out = kernels.scratch('texture', 8 * count);
  kernels.putDoubles(points, places);
  kernels.windowTexture(at, width, width, height, points, count, window, out);
  return kernels.floats(out, 2 * count);
}

/**
 * A pyramid as it would be with the brightness and contrast of the next: flow takes levels as they are, and a lamp that
 * flickers must not pass for movement.
 */
export function inLightOf(kernels: TrackKernels, before: Pyramid, after: Pyramid): Pyramid {
  const { means, variances } = momentsOf(kernels, before, after);
  const ratio = variances[0] > 1 ? Math.sqrt(variances[1] / variances[0]) : 1;
  const gain = Math.min(Math.max(ratio, 1 / mostRelit), mostRelit);
  const relit = (level: number): number => gain * (level - means[0]) + means[1];
  if (Math.abs(relit(64) - 64) < noise && Math.abs(relit(192) - 192) < noise) return before;
  const levels = Uint8ClampedArray.from({ length: 256 }, (_, level) => relit(level));
  const table = kernels.scratch('relit pyramid', before.bytes);
  const from = kernels.bytes(before.table, before.bytes);
  const to = kernels.bytes(table, before.bytes);
  for (let i = before.planes[0].at - before.table; i < from.length; i++) to[i] = levels[from[i]];
  const planes = before.planes.map((plane) => ({ ...plane, at: plane.at - before.table + table }));
  kernels.putIntegers(table, tableOf(planes));
  return { ...before, table, planes };
}

/** Of the coarsest levels of two pictures: means, variances, and how they vary together. */
function momentsOf(kernels: TrackKernels, from: Pyramid, to: Pyramid) {
  const last = Math.min(from.planes.length, to.planes.length) - 1;
  const { at, width, height } = from.planes[last];
  const a = kernels.bytes(at, width * height);
  const b = kernels.bytes(to.planes[last].at, width * height);
  let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    sa += a[i];
    sb += b[i];
    saa += a[i] * a[i];
    sbb += b[i] * b[i];
    sab += a[i] * b[i];
  }
  const n = a.length;
  const means = [sa / n, sb / n];
  const variances = [saa / n - means[0] ** 2, sbb / n - means[1] ** 2];
  return { means, variances, together: sab / n - means[0] * means[1] };
}

/** Zero-mean correlation of the coarsest levels; two that show nothing at all are alike. */
export function correlate(kernels: TrackKernels, from: Pyramid, to: Pyramid): number {
  const { variances, together } = momentsOf(kernels, from, to);
  if (Math.max(...variances) < 1) return 1;
  const spread = variances[0] * variances[1];
  return spread > 0 ? together / Math.sqrt(spread) : 0;
}

/** Planes as the flow kernel is told of them: address, width, height, stride. */
const tableOf = (planes: Pyramid['planes']): number[] =>
  planes.flatMap(({ at, width, height }) => [at, width, height, width]);
