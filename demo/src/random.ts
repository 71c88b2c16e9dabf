/** A stream of numbers in 0–1 that is the same for the same seed (mulberry32). */
export function randomFrom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Fractal noise that repeats every `size` pixels, −1 … 1, finest detail about two pixels. */
export function cloudNoise(size: number, coarsest: number, seed: number): Float32Array {
  const noise = new Float32Array(size * size);
  let total = 0;
  for (let cell = coarsest, weight = 1; cell >= 2; cell /= 2, weight *= 0.62) {
    addOctave(noise, size, cell, weight, randomFrom(seed + cell));
    total += weight;
  }
  return noise.map((value) => value / total);
}

function addOctave(
  noise: Float32Array,
  size: number,
  cell: number,
  weight: number,
  random: () => number,
): void {
  const n = Math.ceil(size / cell);
  const knots = Float32Array.from({ length: n * n }, () => random() * 2 - 1);
  const ease = (t: number): number => t * t * (3 - 2 * t);
  for (let y = 0; y < size; y++) {
    const j = Math.floor(y / cell);
    const v = ease(y / cell - j);
    const row = (j % n) * n;
    const below = ((j + 1) % n) * n;
    for (let x = 0; x < size; x++) {
      const i = Math.floor(x / cell);
      const u = ease(x / cell - i);
      const next = (i + 1) % n;
      const a = knots[row + i] + u * (knots[row + next] - knots[row + i]);
      const b = knots[below + i] + u * (knots[below + next] - knots[below + i]);
      noise[y * size + x] += weight * (a + v * (b - a));
    }
  }
}
