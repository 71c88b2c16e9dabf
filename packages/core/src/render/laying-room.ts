import { spacedBytes, type Kernels, type LaidRow } from '../kernels/kernels.js';
import { cb, cr, levelsOf, partsOf, type Dressed } from './dressed.js';
import { reachOf } from './lay-picture.js';
import type { LayerPicture, Mip, PictureSampler } from './picture-sampler.js';
import type { Mask } from './shape-mask.js';
import { bytesOf, lumaFromChroma, type YuvFormat } from './yuv-picture.js';

/** Bytes of a picture's colours with all its smaller copies. */
const pictureRoom = ({ width, height }: Pick<LayerPicture, 'width' | 'height'>): number =>
  spacedBytes(Math.ceil(4 * width * height * 1.34) + 1024);
/** Bytes of a mask, at the size of luma and of chroma. */
const maskRoom = ({ width, height }: YuvFormat): number => spacedBytes(8 * width * height);

/** Bytes that laying pictures of these sizes over frames of a format takes. */
export const layingBytes = (
  format: YuvFormat,
  pictures: readonly Pick<LayerPicture, 'width' | 'height'>[],
): number => maskRoom(format) + pictures.reduce((sum, picture) => sum + pictureRoom(picture), 0);

/** Room in the kernels' memory where pictures lie, and masks while they are laid by them. */
export class LayingRoom {
  private readonly places = new Map<Mip, number>();
  private next: number;

  constructor(
    private readonly kernels: Kernels,
    private readonly format: YuvFormat,
    private readonly at: number,
    private readonly bytes: number,
  ) {
    this.next = at + maskRoom(format);
  }

  /** Lays a picture over another plainly; false where that does not lie in the kernels' memory, or the picture has no room. */
  lay(dressed: Dressed, mask: Mask, sampler: PictureSampler): boolean {
    const { kernels, at, format } = this;
    const { levels } = dressed;
    if (levels.buffer !== kernels.memory.buffer) return false;
    const { black, luma, middle, chroma, most } = levelsOf(format);
    const each = bytesOf(format.bits);
    const deep = each > 1;
    const [first, u, v] = partsOf(dressed, mask);
    const lumaAlpha = this.put(at, first.alpha);
    const chromaAlpha = this.put(at + 4 * first.alpha.length, u.alpha);
    for (let y = 0; y < first.height; y++) {
      const [from, to] = reachOf(first.alpha, y * first.width, first.width);
      if (from === to) continue;
      const row = this.rowOf(sampler, first.left + from + 0.5, first.top + y + 0.5, 1, to - from);
      if (!row) return false;
      const level = first.plane.offset + (first.top + y) * first.plane.width + first.left + from;
      const alpha = lumaAlpha + 4 * (y * first.width + from);
      kernels.layLuma(levels.byteOffset + each * level, { ...row, alpha }, { black, span: luma, most, deep });
    }
    const [across, , shift, , down] = lumaFromChroma(format);
    const scales = { middle, blue: chroma * cb, red: chroma * cr, most, deep };
    for (let y = 0; y < u.height; y++) {
      const [from, to] = reachOf(u.alpha, y * u.width, u.width);
      if (from === to) continue;
      const x = across * (u.left + from + 0.5) + shift;
      const row = this.rowOf(sampler, x, down * (u.top + y + 0.5), across, to - from);
      if (!row) return false;
      const level = (u.top + y) * u.plane.width + u.left + from;
      const places = [u, v].map(({ plane }) => levels.byteOffset + each * (plane.offset + level));
      const alpha = chromaAlpha + 4 * (y * u.width + from);
      kernels.layChroma([places[0], places[1]], { ...row, alpha }, scales);
    }
    return true;
  }

  private rowOf(
    sampler: PictureSampler,
    x: number,
    y: number,
    apart: number,
    count: number,
  ): Omit<LaidRow, 'alpha'> | null {
    const { mip, place } = sampler.placeOf(x, y, apart, count);
    const picture = this.places.get(mip) ?? this.bring(mip);
    return picture === null ? null : { count, picture, width: mip.width, height: mip.height, place };
  }

  /** Brings a copy of a picture in; all that was there goes where there is no room. */
  private bring(mip: Mip): number | null {
    const { values, width, height } = mip;
    const bytes = spacedBytes(4 * width * height);
    const end = this.at + this.bytes;
    if (this.next + bytes > end) {
      this.places.clear();
      this.next = this.at + maskRoom(this.format);
    }
    if (this.next + bytes > end) return null;
    const place = this.next;
    const to = new Uint8Array(this.kernels.memory.buffer, place, values.length);
    for (let i = 0; i < values.length; i++) to[i] = 255 * values[i] + 0.5;
    this.places.set(mip, place);
    this.next += bytes;
    return place;
  }

  private put(at: number, alpha: Float32Array): number {
    new Float32Array(this.kernels.memory.buffer, at, alpha.length).set(alpha);
    return at;
  }
}
