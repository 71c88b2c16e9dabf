import { blended } from '../dress/blend.js';
import type { DressOperation } from '../dress/operation.js';
import { cb, cr, levelsOf, partsOf, wb, wg, wr, type Dressed } from './dressed.js';
import type { Sampler } from './picture-sampler.js';
import type { Mask } from './shape-mask.js';
import { lumaFromChroma } from './yuv-picture.js';

/** Lays colours over a picture by a blend mode. */
export function lay(dressed: Dressed, mask: Mask, sampler: Sampler, blend: DressOperation['blend']): void {
  if (blend === 'normal') layPlainly(dressed, mask, sampler);
  else layBlended(dressed, mask, sampler, blend);
}

/** Where a row of a mask is anything: its first place and the one after its last. */
export function reachOf(alpha: Float32Array, row: number, width: number): [number, number] {
  let [from, to] = [0, width];
  while (from < to && alpha[row + from] === 0) from++;
  while (to > from && alpha[row + to - 1] === 0) to--;
  return [from, to];
}

/** Luma and chroma each take the colour at their own places. */
function layPlainly(dressed: Dressed, mask: Mask, sampler: Sampler): void {
  const { levels, format } = dressed;
  const { black, luma, middle, chroma, most } = levelsOf(format);
  const [first, u, v] = partsOf(dressed, mask);
  const colours = new Float32Array(4 * first.width);
  for (let y = 0; y < first.height; y++) {
    const [from, to] = reachOf(first.alpha, y * first.width, first.width);
    if (from === to) continue;
    sampler.row(colours, first.left + from + 0.5, first.top + y + 0.5, 1, to - from);
    const row = first.plane.offset + (first.top + y) * first.plane.width + first.left;
    for (let x = from, i = 0; x < to; x++, i += 4) {
      const m = first.alpha[y * first.width + x];
      const a = colours[i + 3];
      if (m === 0 || a === 0) continue;
      const t = wr * colours[i] + wg * colours[i + 1] + wb * colours[i + 2];
      const level = levels[row + x] + m * (a * (black - levels[row + x]) + luma * t);
      levels[row + x] = level < 0 ? 0 : level > most ? most : level + 0.5;
    }
  }
  const [across, , shift, , down] = lumaFromChroma(format);
  for (let y = 0; y < u.height; y++) {
    const [from, to] = reachOf(u.alpha, y * u.width, u.width);
    if (from === to) continue;
    sampler.row(colours, across * (u.left + from + 0.5) + shift, down * (u.top + y + 0.5), across, to - from);
    const row = (u.top + y) * u.plane.width + u.left;
    for (let x = from, k = 0; x < to; x++, k += 4) {
      const m = u.alpha[y * u.width + x];
      const a = colours[k + 3];
      if (m === 0 || a === 0) continue;
      const t = wr * colours[k] + wg * colours[k + 1] + wb * colours[k + 2];
      const i = u.plane.offset + row + x;
      const j = v.plane.offset + row + x;
      const blue = levels[i] + m * (a * (middle - levels[i]) + chroma * cb * (colours[k + 2] - t));
      const red = levels[j] + m * (a * (middle - levels[j]) + chroma * cr * (colours[k] - t));
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
  const colours = new Float32Array(4 * width);
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
      sampler.row(colours, box.left + 0.5, y + 0.5, 1, width);
      for (let x = 0; x < width; x++) {
        const m = alpha[(y - box.top) * width + x];
        if (m === 0) continue;
        const a = colours[4 * x + 3];
        const share = m * a;
        if (share === 0) continue;
        const k = first.offset + y * first.width + box.left + x;
        const c = Math.floor(x / across);
        const t = (levels[k] - black) / luma;
        const red = t + (levels[v.offset + row + c] - middle) / (chroma * cr);
        const blue = t + (levels[u.offset + row + c] - middle) / (chroma * cb);
        const green = (t - wr * red - wb * blue) / wg;
        const dr = change(red, colours[4 * x] / a, share);
        const dg = change(green, colours[4 * x + 1] / a, share);
        const db = change(blue, colours[4 * x + 2] / a, share);
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
