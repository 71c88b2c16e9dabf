/** Rows of a matrix with few entries each, gathered one after another. */
export class SparseRows {
  private starts = [0];
  private indices: number[] = [];
  private entries: number[] = [];
  private packed: { start: Int32Array; column: Int32Array; value: Float64Array } | null = null;

  get count(): number {
    return this.starts.length - 1;
  }

  /** Adds a row; columns ascend. */
  push(columns: readonly number[], values: readonly number[]): void {
    this.indices.push(...columns);
    this.entries.push(...values);
    this.starts.push(this.indices.length);
    this.packed = null;
  }

  /** Takes away all rows but the first `count`. */
  cut(count: number): void {
    if (count === this.count) return;
    this.starts.length = count + 1;
    this.indices.length = this.entries.length = this.starts[count];
    this.packed = null;
  }

  /** As typed arrays: row r has the entries from start[r] to start[r + 1]. */
  get arrays(): { start: Int32Array; column: Int32Array; value: Float64Array } {
    return (this.packed ??= {
      start: Int32Array.from(this.starts),
      column: Int32Array.from(this.indices),
      value: Float64Array.from(this.entries),
    });
  }

  /** Every row times x. */
  times(x: Float64Array, out: Float64Array): void {
    const { start, column, value } = this.arrays;
    for (let r = 0; r < out.length; r++) {
      let sum = 0;
      for (let i = start[r]; i < start[r + 1]; i++) sum += value[i] * x[column[i]];
      out[r] = sum;
    }
  }

  /** Adds the transpose times y. */
  addTransposed(y: Float64Array, out: Float64Array): void {
    const { start, column, value } = this.arrays;
    for (let r = 0; r < y.length; r++) {
      const weight = y[r];
      if (weight === 0) continue;
      for (let i = start[r]; i < start[r + 1]; i++) out[column[i]] += value[i] * weight;
    }
  }
}
