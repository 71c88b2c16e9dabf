/**
 * The frames that a curve must be drawn through to look as it would through all of them: where there are more
 * frames than fit side by side, the lowest and the highest of each column, in order of time.
 */
export function outline(values: ArrayLike<number>, columns: number): number[] {
  const { length } = values;
  if (length <= 2 * columns) return Array.from({ length }, (_, k) => k);
  const kept: number[] = [];
  for (let column = 0; column < columns; column++) {
    const from = Math.floor((column * length) / columns);
    const to = Math.floor(((column + 1) * length) / columns);
    let low = from;
    let high = from;
    for (let k = from + 1; k < to; k++) {
      if (values[k] < values[low]) low = k;
      if (values[k] > values[high]) high = k;
    }
    kept.push(Math.min(low, high));
    if (low !== high) kept.push(Math.max(low, high));
  }
  return kept;
}
