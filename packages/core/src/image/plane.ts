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

/** Half the size; each pixel the rounded mean of the 2×2 above it. An odd last row or column is dropped. */
export function halvePlane(source: Plane): Plane {
  const half = makePlane(source.width >> 1, source.height >> 1);
  const { data, stride } = source;
  let out = 0;
  for (let y = 0; y < half.height; y++) {
    let at = 2 * y * stride;
    for (let x = 0; x < half.width; x++, at += 2) {
      half.data[out++] = (data[at] + data[at + 1] + data[at + stride] + data[at + stride + 1] + 2) >> 2;
    }
  }
  return half;
}

/**
 * A rectangle of a plane as a plane of its own, copied. The rectangle may hang over the border: there the
 * nearest pixel is repeated.
 */
export function cropPlane(source: Plane, left: number, top: number, width: number, height: number): Plane {
  const crop = makePlane(width, height);
  for (let y = 0; y < height; y++) {
    const row = Math.min(Math.max(top + y, 0), source.height - 1) * source.stride;
    for (let x = 0; x < width; x++) {
      crop.data[y * width + x] = source.data[row + Math.min(Math.max(left + x, 0), source.width - 1)];
    }
  }
  return crop;
}
