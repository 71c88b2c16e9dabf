const { imul, sqrt } = Math;

/** A source of grain, never twice the same, of deviation 1: sums of four uniform numbers are nearly normal. */
export function grainFrom(seed: number): () => number {
  let state = seed;
  return () => {
    let sum = 0;
    for (let k = 0; k < 4; k++) {
      state = (imul(state, 1664525) + 1013904223) >>> 0;
      sum += state / 2 ** 32 - 0.5;
    }
    return sum * sqrt(3);
  };
}
