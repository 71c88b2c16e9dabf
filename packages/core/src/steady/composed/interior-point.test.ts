import { expect, test } from '@jest/globals';
import highs from 'highs';
import { BandedMatrix } from './banded-cholesky.js';
import { solveProgram, type PathProgram } from './interior-point.js';
import { SparseRows } from './sparse-rows.js';

test('a banded system is solved', () => {
  const matrix = new BandedMatrix(5, 2);
  for (let i = 0; i < 5; i++) {
    matrix.add(i, i, 6);
    if (i > 0) matrix.add(i, i - 1, -2);
    if (i > 1) matrix.add(i, i - 2, 1);
  }
  matrix.factor();
  // Times (1, 2, 3, 4, 5) it is:
  const b = Float64Array.from([6 - 4 + 3, -2 + 12 - 6 + 4, 1 - 4 + 18 - 8 + 5, 2 - 6 + 24 - 10, 3 - 8 + 30]);
  matrix.solve(b);
  expect([...b].map((v) => Number(v.toFixed(12)))).toEqual([1, 2, 3, 4, 5]);
});

/** A path of one number a frame that stays within a moving corridor, with little change of any order. */
function corridor(frames: number): PathProgram {
  const [terms, limits] = [new SparseRows(), new SparseRows()];
  const [weights, bounds]: [number[], number[]] = [[], []];
  const orders = [
    [10, [-1, 1]],
    [1, [1, -2, 1]],
    [100, [-1, 3, -3, 1]],
  ] as const;
  for (let k = 0; k < frames; k++) {
    for (const [weight, difference] of orders) {
      if (k + difference.length > frames) continue;
      terms.push(
        difference.map((_, i) => k + i),
        difference,
      );
      weights.push(weight);
    }
    const middle = 40 * Math.sin(k / 12) + 0.8 * k;
    limits.push([k], [1]);
    limits.push([k], [-1]);
    bounds.push(middle + 15, 15 - middle);
  }
  return {
    size: frames,
    reach: 3,
    terms,
    weights: Float64Array.from(weights),
    limits,
    bounds: Float64Array.from(bounds),
  };
}

/** The same program in the words of an independent solver. */
async function byOracle({ size, terms, weights, limits, bounds }: PathProgram): Promise<number> {
  const sum = (rows: SparseRows, r: number): string => {
    const { start, column, value } = rows.arrays;
    return Array.from({ length: start[r + 1] - start[r] }, (_, i) => {
      const v = value[start[r] + i];
      return `${v < 0 ? '-' : '+'} ${Math.abs(v)} x${column[start[r] + i]}`;
    }).join(' ');
  };
  const lines = [
    'Minimize',
    ` cost: ${Array.from(weights, (w, i) => `+ ${w} t${i}`).join(' ')}`,
    'Subject To',
    ...Array.from(
      weights,
      (_, i) => ` a${i}: ${sum(terms, i)} - t${i} <= 0\n b${i}: ${sum(terms, i)} + t${i} >= 0`,
    ),
    ...Array.from(bounds, (b, i) => ` c${i}: ${sum(limits, i)} <= ${b}`),
    'Bounds',
    ...Array.from({ length: size }, (_, i) => ` x${i} free`),
    'End',
  ];
  const load = highs as unknown as () => Promise<{ solve: (program: string) => { ObjectiveValue: number } }>;
  return (await load()).solve(lines.join('\n')).ObjectiveValue;
}

test('the optimum is the one that an independent solver finds, and keeps every limit', async () => {
  const program = corridor(120);
  const { x, cost, converged, steps } = solveProgram(program, new Float64Array(120));
  expect([converged, steps < 50]).toEqual([true, true]);
  const oracle = await byOracle(program);
  expect(Math.abs(cost - oracle) / oracle).toBeLessThan(1e-5);
  const reached = new Float64Array(program.bounds.length);
  program.limits.times(x, reached);
  for (let i = 0; i < reached.length; i++) expect(reached[i]).toBeLessThan(program.bounds[i] + 1e-6);
});

test('where standing still is allowed it stands still', () => {
  const program = corridor(60);
  program.bounds.fill(500);
  const { x, cost, converged } = solveProgram(
    program,
    Float64Array.from({ length: 60 }, (_, k) => Math.sin(k)),
  );
  expect(converged).toBe(true);
  // What it always leaves is far below what is seen.
  expect(cost).toBeLessThan(2e-3);
  expect(Math.max(...x) - Math.min(...x)).toBeLessThan(1e-3);
});

test('squared, what has to be gone is gone at one pace; its square is weighed against what it saves elsewhere', () => {
  // From 0 or less to 3 or more over four numbers.
  const [terms, limits] = [new SparseRows(), new SparseRows()];
  for (const k of [0, 1, 2]) terms.push([k, k + 1], [-1, 1]);
  limits.push([0], [1]);
  limits.push([3], [-1]);
  const program = { size: 4, reach: 1, terms, limits, bounds: Float64Array.from([0, -3]) };
  const weights = new Float64Array(3).fill(0.1);
  const even = solveProgram(
    { ...program, weights, squares: new Float64Array(3).fill(50) },
    new Float64Array(4),
  );
  expect(even.converged).toBe(true);
  [0, 1, 2, 3].forEach((value, k) => expect(even.x[k]).toBeCloseTo(value, 4));
  expect(even.cost).toBeCloseTo(0.3 + 75, 4);
  // A step ten times as dear takes a tenth of what the others do.
  const dear = solveProgram(
    { ...program, weights, squares: Float64Array.from([500, 50, 50]) },
    new Float64Array(4),
  );
  expect(dear.x[1] - dear.x[0]).toBeCloseTo(3 / 21, 4);
});
