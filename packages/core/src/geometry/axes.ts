/** A symmetric 2×2 matrix by its axes: its eigenvalues, and the direction of the larger, radians clockwise from the x axis. */
export interface Axes {
  least: number;
  most: number;
  angle: number;
}

export function axesOf(xx: number, xy: number, yy: number): Axes {
  const [middle, apart] = [(xx + yy) / 2, Math.hypot((xx - yy) / 2, xy)];
  return { least: middle - apart, most: middle + apart, angle: Math.atan2(2 * xy, xx - yy) / 2 };
}
