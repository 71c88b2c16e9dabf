import { curveAt } from '../dress/curve.js';
import type { ColourContent } from '../dress/operation.js';
import { change, levelsOf, partsOf, yuvOf, type Dressed } from './dressed.js';
import type { Mask } from './shape-mask.js';

/** Turns and stretches chroma, and bends luma. */
export function recolour(dressed: Dressed, mask: Mask, content: ColourContent): void {
  const { levels, format } = dressed;
  const { black, luma, middle, most } = levelsOf(format);
  const { hue, saturation, contrast, brightness, tint, tintAmount } = content;
  const [, tintU, tintV] = yuvOf(tint, format);
  // White and black have no colour.
  const kept = saturation * (1 - Math.abs(content.lightness));
  const [c, s] = [kept * Math.cos(hue), kept * Math.sin(hue)];
  const [first, u, v] = partsOf(dressed, mask);
  const { lightness, curve } = content;
  const bent = (level: number): number => {
    const t = Math.min(Math.max(((level - black) / luma - 0.5) * contrast + 0.5 + brightness, 0), 1);
    const v = Math.min(Math.max(curveAt(curve, t), 0), 1);
    return black + luma * (lightness > 0 ? v + lightness * (1 - v) : v * (1 + lightness));
  };
  const table = Float32Array.from({ length: most + 1 }, (_, level) => bent(level));
  change(levels, first, most, (level) => table[level]);
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
