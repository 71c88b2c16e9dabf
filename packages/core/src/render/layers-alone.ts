import { levelsOf } from './dressed.js';
import { bytesOf, planeLayout, type PlaneLayout, type YuvFormat } from './yuv-picture.js';

type Levels = Uint8Array | Uint16Array;

/** Less of a pixel covered than this has no colour of its own that could be told: a few levels would be all there is. */
const least = 0.02;

/**
 * Turns a dressed picture into its layers alone, where it lies: colours as they are laid, not multiplied by alpha, and how much
 * of each pixel they cover as a fourth plane. Laid over the source plainly they make the dressed picture again.
 */
export function layersAlone(dressed: Levels, source: Levels, format: YuvFormat, matte: Float32Array): void {
  const planes = planeLayout({ ...format, alpha: true });
  const { most, black, middle } = levelsOf(format);
  planes.slice(0, 3).forEach((plane, i) => {
    const nothing = i === 0 ? black : middle;
    each(plane, format, matte, (at, a) => {
      const own = source[at] + (dressed[at] - source[at]) / a;
      dressed[at] = a < least ? nothing : Math.min(Math.max(Math.round(own), 0), most);
    });
  });
  const [, , , alpha] = planes;
  matte.forEach((a, i) => (dressed[alpha.offset + i] = Math.round(most * a)));
}

/** Turns a picture into how much of each pixel is covered: black where nothing is. */
export function matteAlone(levels: Levels, format: YuvFormat, matte: Float32Array): void {
  const { black, luma, middle } = levelsOf(format);
  matte.forEach((a, i) => (levels[i] = Math.round(black + luma * a)));
  levels.fill(middle, matte.length, colourBytes(format) / bytesOf(format.bits));
}

/** Goes through a plane with how much of each sample is covered: of chroma the mean of its pixels. */
function each(
  { offset, width, height }: PlaneLayout,
  format: YuvFormat,
  matte: Float32Array,
  change: (at: number, share: number) => void,
): void {
  const across = Math.round(format.width / width);
  const down = Math.round(format.height / height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let j = 0; j < down; j++)
        for (let i = 0; i < across; i++)
          sum +=
            matte[
              Math.min(y * down + j, format.height - 1) * format.width +
                Math.min(x * across + i, format.width - 1)
            ];
      change(offset + y * width + x, sum / (across * down));
    }
}

/** Bytes of a picture's planes of colour, without alpha. */
export const colourBytes = (format: YuvFormat): number => {
  const last = planeLayout({ ...format, alpha: false })[2];
  return (last.offset + last.width * last.height) * bytesOf(format.bits);
};
