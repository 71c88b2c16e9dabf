/**
 * The frames, from the first to the last that is seen, that a curve must be drawn through to look as it would through
 * all of them: where there are more frames than fit side by side, the lowest and the highest of each column, in order of
 * time.
 */
export function outline(
  values: ArrayLike<number>,
  columns: number,
  first = 0,
  last = values.length - 1,
): number[] {
  const length = last - first + 1;
  if (length <= 2 * columns) return Array.from({ length }, (_, k) => first + k);
  const kept: number[] = [];
  for (let column = 0; column < columns; column++) {
    const from = first + Math.floor((column * length) / columns);
    const to = first + Math.floor(((column + 1) * length) / columns);
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
