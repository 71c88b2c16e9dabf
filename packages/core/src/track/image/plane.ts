/** One 8-bit plane of a picture: `height` rows of `stride` bytes, of which the first `width` are pixels. */
export interface Plane {
  data: Uint8Array;
  width: number;
  height: number;
  stride: number;
}

export const makePlane = (width: number, height: number): Plane => ({
  data: new Uint8Array(width * height),
  width,
  height,
  stride: width,
});
