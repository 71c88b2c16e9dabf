import type { ColourKey } from '../dress/operation.js';
import { boxMeans, holdOut, levelsOf, partsOf, yuvOf, type Dressed } from './dressed.js';
import type { Mask } from './shape-mask.js';
import type { PixelBox } from './warp-picture.js';

/** Keeps a mask inside or outside of where the picture has a colour, and takes the colour's tinge off what stands before it. */
export function holdOutByColour(dressed: Dressed, mask: Mask, key: ColourKey, scale: number): void {
  const { box } = mask;
  const [width, height] = [box.right - box.left, box.bottom - box.top];
  const keyed = keyedIn(dressed, box, key);
  const choke = Math.round(key.choke * scale);
  if (choke !== 0)
    keyed.alpha = drawnIn(drawnIn(keyed.alpha, width, height, 1, choke), width, height, width, choke);
  if (key.spill > 0 && key.keep === 'outside') {
    const near = boxMeans(keyed.alpha, width, height, 1, Math.max(1, Math.round(spillReach * scale)));
    takeTinge(
      dressed,
      mask,
      keyed,
      boxMeans(near, width, height, width, Math.max(1, Math.round(spillReach * scale))),
      key,
    );
  }
  holdOut(mask, keyed, key.keep);
}

/** Pixels from a key's edges over which its colour tinges what stands before it. */
const spillReach = 10;

/** The least, or for a negative reach the most, of the values within so many along rows (`step` 1) or columns. */
export function drawnIn(
  values: Float32Array,
  width: number,
  height: number,
  step: number,
  reach: number,
): Float32Array {
  const made = new Float32Array(values.length);
  const [length, lines] = step === 1 ? [width, height] : [height, width];
  const pick = reach > 0 ? Math.min : Math.max;
  const far = Math.abs(reach);
  for (let line = 0; line < lines; line++) {
    const base = step === 1 ? line * width : line;
    for (let i = 0; i < length; i++) {
      let v = values[base + i * step];
      for (let k = Math.max(0, i - far); k <= Math.min(length - 1, i + far); k++)
        v = pick(v, values[base + k * step]);
      made[base + i * step] = v;
    }
  }
  return made;
}

/** Takes from chroma what of it goes the way of a colour, where that colour is near but not there. */
function takeTinge(
  dressed: Dressed,
  mask: Mask,
  keyed: Mask,
  near: Float32Array,
  { colour, spill }: ColourKey,
): void {
  const { levels, format } = dressed;
  const { middle, most } = levelsOf(format);
  const [, blue, red] = yuvOf(colour, format);
  const length = Math.hypot(blue - middle, red - middle);
  if (length === 0) return;
  const [du, dv] = [(blue - middle) / length, (red - middle) / length];
  const [, u, v] = partsOf(dressed, {
    box: mask.box,
    // Twice: half way into what has the colour is its edge.
    alpha: mask.alpha.map((m, i) => m * (1 - keyed.alpha[i]) * Math.min(1, 2 * near[i]) * spill),
  });
  for (let y = 0; y < u.height; y++)
    for (let x = 0; x < u.width; x++) {
      const a = u.alpha[y * u.width + x];
      if (a === 0) continue;
      const at = (u.top + y) * u.plane.width + u.left + x;
      const [i, j] = [u.plane.offset + at, v.plane.offset + at];
      const along = (levels[i] - middle) * du + (levels[j] - middle) * dv;
      if (along <= 0) continue;
      levels[i] = Math.min(Math.max(Math.round(levels[i] - a * along * du), 0), most);
      levels[j] = Math.min(Math.max(Math.round(levels[j] - a * along * dv), 0), most);
    }
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
  // As many numbers as there are chroma samples; each is that of its pixels.
  const first = Math.floor(box.left / across);
  const shares = new Float32Array(Math.ceil(box.right / across) - first);
  let done = -1;
  for (let y = box.top; y < box.bottom; y++) {
    const line = Math.floor(y / down);
    if (line !== done) {
      done = line;
      for (let c = 0; c < shares.length; c++) {
        const at = line * u.width + Math.min(first + c, u.width - 1);
        const du = levels[u.offset + at] - blue;
        const dv = levels[v.offset + at] - red;
        const t = Math.min(Math.max((Math.sqrt(du * du + dv * dv) / chroma - range) / reach, 0), 1);
        shares[c] = 1 - t * t * (3 - 2 * t);
      }
    }
    const row = (y - box.top) * width - box.left;
    for (let x = box.left; x < box.right; x++) alpha[row + x] = shares[Math.floor(x / across) - first];
  }
  return { box, alpha };
}
