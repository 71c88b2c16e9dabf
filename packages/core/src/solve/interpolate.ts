/** Fills a column where it is not known: between known values a straight line, beyond them the nearest one. */
export function interpolate(column: Float64Array, known: (k: number) => boolean): void {
  let last = -1;
  for (let k = 0; k < column.length; k++) {
    if (!known(k)) continue;
    if (last < 0) column.fill(column[k], 0, k);
    else {
      const rise = (column[k] - column[last]) / (k - last);
      for (let i = last + 1; i < k; i++) column[i] = column[last] + rise * (i - last);
    }
    last = k;
  }
  if (last >= 0) column.fill(column[last], last + 1);
}
