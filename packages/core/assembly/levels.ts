// What all that goes pixel by pixel through a plane shares: whether a place lies in the frame, and levels of 8 or of 16 bits.

/** An index kept within a row or column: the border's level is repeated. */
// @ts-ignore: decorator
@inline
export function clampIndex(i: i32, size: i32): i32 {
  return min(max(i, 0), size - 1);
}

/** Whether a place before the viewer lies within bounds, both ends included. */
// @ts-ignore: decorator
@inline
export function lies(w: f64, u: f64, v: f64, left: f64, top: f64, right: f64, bottom: f64): bool {
  return w > 0.0 && u >= left && u <= right && v >= top && v <= bottom;
}

/** The address of the level in column `x` of a row. */
// @ts-ignore: decorator
@inline
export function levelPlace(row: usize, x: i32, deep: bool): usize {
  return row + <usize>(deep ? 2 * x : x);
}

// @ts-ignore: decorator
@inline
export function loadLevel(at: usize, deep: bool): i32 {
  return deep ? <i32>load<u16>(at) : <i32>load<u8>(at);
}

// @ts-ignore: decorator
@inline
export function storeLevel(at: usize, level: i32, deep: bool): void {
  if (deep) store<u16>(at, <u16>level);
  else store<u8>(at, <u8>level);
}
