import type { ClipView } from '@lurn/contract';
import type { LayerPicture } from '@lurn/core';
import { FrameSource, type Picture } from './frame-source';

/** A clip as layers show it: its proxy, and what of it covers where it has alpha. */
interface Film {
  proxy: FrameSource;
  matte: FrameSource | null;
}

/** The proxies of clips that layers show, opened when they are first shown. */
export class Films {
  private readonly films = new Map<string, Promise<Film | null>>();

  /** A frame of a clip as a layer shows it; null where it cannot be had. */
  async at(clip: string, frame: number): Promise<LayerPicture | null> {
    const opening = this.films.get(clip) ?? open(clip).catch(() => null);
    this.films.set(clip, opening);
    const film = await opening;
    if (!film) return null;
    const take = (source: FrameSource | null): Promise<Picture | null> =>
      source ? source.get(frame).catch(() => null) : Promise.resolve(null);
    const [picture, matte] = await Promise.all([take(film.proxy), take(film.matte)]);
    return picture ? asLayerPicture(picture, matte) : null;
  }
}

async function open(clip: string): Promise<Film> {
  const address = (what: string): string => new URL(`/api/clips/${clip}${what}`, self.location.href).href;
  const { alpha } = (await (await fetch(address(''))).json()) as Pick<ClipView, 'alpha'>;
  return {
    proxy: await FrameSource.open(address('/proxy')),
    matte: alpha ? await FrameSource.open(address('/matte')) : null,
  };
}

/** A picture of a proxy in red, green and blue, with what of it covers: BT.709, limited range. */
function asLayerPicture({ data, width, height }: Picture, matte: Picture | null): LayerPicture {
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
      rgba[at + 3] = matte ? 1.16438 * (matte.data[y * width + x] - 16) : 255;
    }
  return { width, height, rgba: new Uint8Array(rgba.buffer) };
}
