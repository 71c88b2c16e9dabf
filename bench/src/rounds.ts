export const median = (values: number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1];

/** Runs both kinds of work in turns, so that a noisy machine is noisy for both, and compares their medians. */
export async function inTurns(
  rounds: number,
  ours: () => Promise<void>,
  yardstick: () => Promise<void>,
): Promise<{ ours: number; yardstick: number; ratio: number }> {
  const time = async (work: () => Promise<void>): Promise<number> => {
    const start = performance.now();
    await work();
    return performance.now() - start;
  };
  const a: number[] = [];
  const b: number[] = [];
  for (let i = 0; i < rounds; i++) {
    b.push(await time(yardstick));
    a.push(await time(ours));
  }
  return { ours: median(a), yardstick: median(b), ratio: median(a.map((v, i) => v / b[i])) };
}

export const seconds = (milliseconds: number): string => `${(milliseconds / 1000).toFixed(2)} s`;
