/**
 * A symmetric positive definite matrix whose rows reach no farther than `reach` columns beside the diagonal; its lower half
 * is kept, row by row: entry (i, j) with i − reach ≤ j ≤ i lies at i·(reach + 1) + j − i + reach.
 */
export class BandedMatrix {
  readonly entries: Float64Array;

  constructor(
    readonly size: number,
    readonly reach: number,
  ) {
    this.entries = new Float64Array(size * (reach + 1));
  }

  clear(): void {
    this.entries.fill(0);
  }

  /** Adds to entry (i, j), i not less than j. */
  add(i: number, j: number, value: number): void {
    this.entries[i * (this.reach + 1) + j - i + this.reach] += value;
  }

  /** Becomes its Cholesky factor (Golub & Van Loan, 4.3.5). A pivot that is not positive is lifted to `least`. */
  factor(least = 1e-12): void {
    const { size, reach, entries } = this;
    const width = reach + 1;
    for (let i = 0; i < size; i++) {
      const row = i * width + reach - i;
      const from = Math.max(0, i - reach);
      for (let j = from; j <= i; j++) {
        const other = j * width + reach - j;
        let sum = entries[row + j];
        for (let k = Math.max(from, j - reach); k < j; k++) sum -= entries[row + k] * entries[other + k];
        entries[row + j] = i === j ? Math.sqrt(Math.max(sum, least)) : sum / entries[other + j];
      }
    }
  }

  /** Solves with the factor, in place. */
  solve(b: Float64Array): void {
    const { size, reach, entries } = this;
    const width = reach + 1;
    for (let i = 0; i < size; i++) {
      const row = i * width + reach - i;
      let sum = b[i];
      for (let k = Math.max(0, i - reach); k < i; k++) sum -= entries[row + k] * b[k];
      b[i] = sum / entries[row + i];
    }
    for (let i = size - 1; i >= 0; i--) {
      const row = i * width + reach - i;
      b[i] /= entries[row + i];
      for (let k = Math.max(0, i - reach); k < i; k++) b[k] -= entries[row + k] * b[i];
    }
  }
}
