/**
 * A curve through points, pairs of x and y with x rising, without overshoot (Fritsch & Carlson 1980): its value at x, straight on
 * beyond its ends. Without points it is x itself.
 */
export function curveAt(points: readonly number[], x: number): number {
  const n = points.length / 2;
  if (n === 0) return x;
  const [px, py] = [(i: number) => points[2 * i], (i: number) => points[2 * i + 1]];
  if (n === 1 || x <= px(0)) return py(0);
  if (x >= px(n - 1)) return py(n - 1);
  let i = 0;
  while (px(i + 1) < x) i++;
  const slope = (k: number): number => (py(k + 1) - py(k)) / Math.max(px(k + 1) - px(k), 1e-9);
  const tangent = (k: number): number => {
    if (k === 0) return slope(0);
    if (k === n - 1) return slope(n - 2);
    const [a, b] = [slope(k - 1), slope(k)];
    // Harmonic mean: none where the curve turns.
    return a * b <= 0 ? 0 : (2 * a * b) / (a + b);
  };
  const h = px(i + 1) - px(i);
  const t = (x - px(i)) / h;
  const [a, b] = [tangent(i) * h, tangent(i + 1) * h];
  const t2 = t * t;
  const t3 = t2 * t;
  return (
    (2 * t3 - 3 * t2 + 1) * py(i) + (t3 - 2 * t2 + t) * a + (3 * t2 - 2 * t3) * py(i + 1) + (t3 - t2) * b
  );
}
