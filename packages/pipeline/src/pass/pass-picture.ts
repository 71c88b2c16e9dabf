import {
  needsChroma,
  parsePixelAspect,
  plainAnalysis,
  planeLayout,
  type Plane,
  type TrackPicture,
} from '@lurn/core';
import type { Clip } from '@lurn/media';

export type Planes = 'luma' | 'all';

/** The planes that a picture must have to be seen so. */
export const planesFor = (analysis = plainAnalysis): Planes => (needsChroma(analysis) ? 'all' : 'luma');

/** What a tracker needs to know of a clip to see a picture in decoded bytes. */
export interface PictureFormat extends Pick<Clip, 'width' | 'height' | 'subsampling'> {
  planes: Planes;
  matrix: TrackPicture['matrix'];
  range: 'limited' | 'full';
  pixelAspect: number;
}

export function pictureFormat(clip: Clip, planes: Planes): PictureFormat {
  const { space, range } = clip.colour;
  const old = space === 'smpte170m' || space === 'bt470bg' || (space === null && clip.height < 720);
  return {
    width: clip.width,
    height: clip.height,
    subsampling: clip.subsampling,
    planes,
    matrix: space?.startsWith('bt2020') ? 'bt2020' : old ? 'bt601' : 'bt709',
    range: range === 'pc' ? 'full' : 'limited',
    pixelAspect: parsePixelAspect(clip.pixelAspect),
  };
}

/** Decoded bytes as a picture to track on; `at` is where they lie if that is the kernels' memory. Nothing is copied. */
export function asPicture(data: Uint8Array, format: PictureFormat, at?: number): TrackPicture {
  const plane = ({ offset, width, height }: ReturnType<typeof planeLayout>[number]): Plane => ({
    data: data.subarray(offset, offset + width * height),
    width,
    height,
    stride: width,
  });
  const [luma, u, v] = planeLayout(format);
  const { planes, matrix, range, pixelAspect } = format;
  const seen = { ...plane(luma), pixelAspect, wasmAddress: at === undefined ? undefined : at + luma.offset };
  return planes === 'luma' ? seen : { ...seen, chroma: [plane(u), plane(v)], matrix, range };
}
