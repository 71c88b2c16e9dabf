import type { LayerPicture } from '@lurn/core';
import { FrameSource, type Picture } from './frame-source';

/** The proxies of clips that layers show, opened when they are first shown. */
export class Films {
  private readonly sources = new Map<string, Promise<FrameSource | null>>();

  /** A frame of a clip as a layer shows it; null where it cannot be had. */
  async at(clip: string, frame: number): Promise<LayerPicture | null> {
    const opening =
      this.sources.get(clip) ??
      FrameSource.open(new URL(`/api/clips/${clip}/proxy`, self.location.href).href).catch(() => null);
    this.sources.set(clip, opening);
    const source = await opening;
    const picture = await source?.get(frame).catch(() => null);
    return picture ? asLayerPicture(picture) : null;
  }
}

/** A picture of a proxy in red, green and blue: BT.709, limited range. */
function asLayerPicture({ data, width, height }: Picture): LayerPicture {
  const rgba = new Uint8ClampedArray(4 * width * height);
  const half = (width + 1) >> 1;
  const [u, v] = [width * height, width * height + half * ((height + 1) >> 1)];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const chroma = (y >> 1) * half + (x >> 1);
      const level = 1.16438 * (data[y * width + x] - 16);
      const [blue, red] = [data[u + chroma] - 128, data[v + chroma] - 128];
      const at = 4 * (y * width + x);
      rgba[at] = level + 1.79274 * red;
      rgba[at + 1] = level - 0.21325 * blue - 0.53291 * red;
      rgba[at + 2] = level + 2.1124 * blue;
      rgba[at + 3] = 255;
    }
  return { width, height, rgba: new Uint8Array(rgba.buffer) };
}
