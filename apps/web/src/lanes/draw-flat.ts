import { apply, quadFromSquare, type Quad } from '@lurn/core';

const pixels = new WeakMap<HTMLImageElement, ImageData>();

/** A still's pixels; they are fetched from it once. */
function pixelsOf(still: HTMLImageElement): ImageData | null {
  const known = pixels.get(still);
  if (known) return known;
  const { naturalWidth: width, naturalHeight: height } = still;
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true });
  if (!context) return null;
  context.drawImage(still, 0, 0);
  const data = context.getImageData(0, 0, width, height);
  pixels.set(still, data);
  return data;
}

/** Draws what is in a quad of a still square on, over all of a canvas. */
export function drawFlat(canvas: HTMLCanvasElement, still: HTMLImageElement, quad: Quad): void {
  const c = canvas.getContext('2d', { willReadFrequently: true });
  const source = pixelsOf(still);
  const matrix = quadFromSquare(quad);
  if (!c || !source || !matrix) return;
  const { width, height } = canvas;
  const made = c.createImageData(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = apply(matrix, (x + 0.5) / width, (y + 0.5) / height);
      const [u, v] = [p.x - 0.5, p.y - 0.5];
      const [i, j] = [Math.floor(u), Math.floor(v)];
      const at = 4 * (y * width + x);
      made.data[at + 3] = 255;
      if (!(i >= 0 && j >= 0 && i < source.width - 1 && j < source.height - 1)) continue;
      const [s, t] = [u - i, v - j];
      const k = 4 * (j * source.width + i);
      for (let n = 0; n < 3; n++) {
        const upper = source.data[k + n] * (1 - s) + source.data[k + 4 + n] * s;
        const below = k + 4 * source.width + n;
        made.data[at + n] = upper * (1 - t) + t * (source.data[below] * (1 - s) + source.data[below + 4] * s);
      }
    }
  c.putImageData(made, 0, 0);
}
