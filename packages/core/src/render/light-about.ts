import type { MaskRecipe } from '../dress/operation.js';
import type { Colour } from '../dress/colour.js';
import { isInAny } from '../geometry/closed-spline.js';
import { apply, type Mat3 } from '../geometry/mat3.js';
import { lightRatio } from './cut-out.js';
import { colourAt, levelsOf, wb, wg, wr, type Dressed } from './dressed.js';
import { grainOf, laplacian } from './measure-around.js';
import type { LayerPicture } from './picture-sampler.js';

/** How a frame's light and grain about a patch differ from the patch's own. */
export interface LightAbout {
  /** Factors on red, green and blue. */
  gains: Colour;
  /** Standard deviation of the grain that the patch has too little, of all of luma. */
  grain: number;
}

/** Places that are looked at about a patch. */
const places = 500;
/** A place is the mean over so many pixels on either side. */
const about = 1;

/**
 * Compares a patch with the frame that it is put into, where the patch shows what the frame itself does: where nothing is painted,
 * and beyond its outlines. Light by the middle ratio, colour by colour; grain by what second differences leave of smooth parts.
 */
export function lightAbout(
  { levels, format }: Dressed,
  picture: LayerPicture,
  frameFromSquare: Mat3,
  { outlines }: MaskRecipe,
): LightAbout {
  const { width, height, rgba } = picture;
  const step = Math.max(1, Math.floor(Math.sqrt((width * height) / places)));
  const seen = outlines.filter(({ cut }) => !cut).map(({ points }) => points);
  const pairs: [number, number][][] = [[], [], []];
  const grains: { there: number[]; own: number[] } = { there: [], own: [] };
  const { luma } = levelsOf(format);
  const lumaOf = (x: number, y: number): number => {
    const at = 4 * (y * width + x);
    return (wr * rgba[at] + wg * rgba[at + 1] + wb * rgba[at + 2]) / 255;
  };
  for (let y = 1 + (step >> 1); y < height - 1; y += step)
    for (let x = 1 + (step >> 1); x < width - 1; x += step) {
      const p = apply(frameFromSquare, (x + 0.5) / width, (y + 0.5) / height);
      if (!(p.x >= 2 && p.y >= 2 && p.x < format.width - 2 && p.y < format.height - 2)) continue;
      if (rgba[4 * (y * width + x) + 3] > 0 && isInAny(seen, p)) continue;
      const there = colourAt(levels, format, p, about);
      for (let c = 0; c < 3; c++) {
        let own = 0;
        for (let j = -about; j <= about; j++)
          for (let i = -about; i <= about; i++) own += rgba[4 * ((y + j) * width + x + i) + c];
        pairs[c].push([255 * there[c], own / (2 * about + 1) ** 2]);
      }
      const [i, j] = [Math.floor(p.x), Math.floor(p.y)];
      grains.there.push(laplacian((dx, dy) => levels[(j + dy) * format.width + i + dx] / luma));
      grains.own.push(laplacian((dx, dy) => lumaOf(x + dx, y + dy)));
    }
  const [r, g, b] = pairs.map(lightRatio);
  const [there, own] = [grainOf(grains.there), grainOf(grains.own)];
  return { gains: [r, g, b], grain: Math.sqrt(Math.max(0, there * there - own * own)) };
}
