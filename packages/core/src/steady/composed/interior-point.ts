import { BandedMatrix } from './banded-cholesky.js';
import type { SparseRows } from './sparse-rows.js';

/** Minimise Σ weights·|terms·x| + ½ Σ squares·(terms·x)² where limits·x ≤ bounds. Rows reach no farther than `reach` columns apart. */
export interface PathProgram {
  size: number;
  reach: number;
  terms: SparseRows;
  weights: Float64Array;
  /** None when left out. */
  squares?: Float64Array;
  limits: SparseRows;
  bounds: Float64Array;
}

export interface PathSolution {
  x: Float64Array;
  /** What is minimised. */
  cost: number;
  steps: number;
  /** Whether it came to the optimum, to 1e-6 of the cost, and keeps every limit. */
  converged: boolean;
}

const mostSteps = 80;
/** What the cost may be above the optimum: of itself, and in its own units, where the optimum is nothing at all. */
const gapWanted = 1e-7;
const gapAlways = 2e-3;
/** How near to the edge of what is allowed a step goes. */
const nearEdge = 0.995;
/** Slacks and multipliers stay above this: near an optimum of zero they would vanish into rounding. */
const floor = 1e-13;

/**
 * A primal-dual interior point with Mehrotra's predictor and corrector (1992), for sums of absolute values under linear
 * limits. What bounds each absolute value is eliminated, so that a step is one banded solve. It starts from `start`, which
 * need not keep the limits.
 */
export function solveProgram(program: PathProgram, start: Float64Array): PathSolution {
  const { size, terms, weights, limits, bounds } = program;
  const [m, n] = [terms.count, limits.count];
  const { squares = new Float64Array(m) } = program;
  const x = Float64Array.from(start);
  const r = new Float64Array(m);
  const g = new Float64Array(n);
  terms.times(x, r);
  limits.times(x, g);
  const scale = 1 + Math.max(...r.map(Math.abs), 1e-3);
  // t bounds |r|: s1 = t − r, s2 = t + r; s3 = bounds − limits·x, as far as that is positive.
  const t = r.map((v) => Math.abs(v) + 0.1 * scale);
  const s3 = g.map((v, i) => Math.max(bounds[i] - v, 1));
  const l1 = weights.map((w) => Math.max(w / 2, 1e-6));
  const l2 = Float64Array.from(l1);
  const l3 = new Float64Array(n).fill(1e-1);
  const s1 = t.map((v, i) => v - r[i]);
  const s2 = t.map((v, i) => v + r[i]);

  const matrix = new BandedMatrix(size, program.reach);
  const [q, theta] = [new Float64Array(m), new Float64Array(m)];
  const [k1, k2, dr, dt] = [0, 0, 0, 0].map(() => new Float64Array(m));
  const [k3, dg, p3] = [0, 0, 0].map(() => new Float64Array(n));
  const [ds1, ds2, dl1, dl2] = [0, 0, 0, 0].map(() => new Float64Array(m));
  const [ds3, dl3] = [new Float64Array(n), new Float64Array(n)];
  const [c1, c2, c3] = [new Float64Array(m), new Float64Array(m), new Float64Array(n)];
  const dx = new Float64Array(size);
  const rdx = new Float64Array(size);
  const rdt = new Float64Array(m);
  const difference = new Float64Array(m);

  const gap = (): number => {
    let sum = 0;
    for (let i = 0; i < m; i++) sum += l1[i] * s1[i] + l2[i] * s2[i];
    for (let i = 0; i < n; i++) sum += l3[i] * s3[i];
    return sum;
  };

  /** One Newton direction; `c` holds the products that are wanted less those that there are. */
  const direction = (): void => {
    for (let i = 0; i < m; i++) {
      k1[i] = -c1[i] / s1[i];
      k2[i] = -c2[i] / s2[i];
      const [a, b] = [l1[i] / s1[i], l2[i] / s2[i]];
      q[i] = k1[i] - k2[i] - ((a - b) * (k1[i] + k2[i] - rdt[i])) / (a + b);
    }
    for (let i = 0; i < n; i++) k3[i] = (-c3[i] + l3[i] * p3[i]) / s3[i];
    dx.fill(0);
    terms.addTransposed(q, dx);
    limits.addTransposed(k3, dx);
    for (let i = 0; i < size; i++) dx[i] = -rdx[i] - dx[i];
    matrix.solve(dx);
    terms.times(dx, dr);
    limits.times(dx, dg);
    for (let i = 0; i < m; i++) {
      const [a, b] = [l1[i] / s1[i], l2[i] / s2[i]];
      dt[i] = (k1[i] + k2[i] - rdt[i] + (a - b) * dr[i]) / (a + b);
      ds1[i] = dt[i] - dr[i];
      ds2[i] = dt[i] + dr[i];
      dl1[i] = k1[i] + a * (dr[i] - dt[i]);
      dl2[i] = k2[i] - b * (dr[i] + dt[i]);
    }
    for (let i = 0; i < n; i++) {
      ds3[i] = -p3[i] - dg[i];
      dl3[i] = k3[i] + (l3[i] / s3[i]) * dg[i];
    }
  };

  const room = (pairs: readonly (readonly [Float64Array, Float64Array])[]): number => {
    let most = 1 / nearEdge;
    for (const [value, change] of pairs)
      for (let i = 0; i < value.length; i++) if (change[i] < 0) most = Math.min(most, -value[i] / change[i]);
    return Math.min(1, nearEdge * most);
  };
  const primal = [
    [s1, ds1],
    [s2, ds2],
    [s3, ds3],
  ] as const;
  const dual = [
    [l1, dl1],
    [l2, dl2],
    [l3, dl3],
  ] as const;

  const best = Float64Array.from(x);
  const balance = 1e-4 * Math.max(...weights);
  let steps = 0;
  let converged = false;
  for (; steps < mostSteps; steps++) {
    // What is not fulfilled yet.
    let far = 0;
    for (let i = 0; i < n; i++) {
      p3[i] = g[i] - bounds[i] + s3[i];
      far = Math.max(far, Math.abs(p3[i]));
    }
    for (let i = 0; i < m; i++) {
      difference[i] = l1[i] - l2[i] + squares[i] * r[i];
      rdt[i] = weights[i] - l1[i] - l2[i];
    }
    rdx.fill(0);
    terms.addTransposed(difference, rdx);
    limits.addTransposed(l3, rdx);
    const cost = costOf(weights, squares, r);
    const total = gap();
    let unbalanced = 0;
    for (let i = 0; i < size; i++) unbalanced = Math.max(unbalanced, Math.abs(rdx[i]));
    if (total < gapAlways + gapWanted * cost && far < 1e-7 * (1 + scale) && unbalanced < balance) {
      converged = true;
      break;
    }
    // What rounding has spoilt is not gone on from.
    if (!Number.isFinite(total + cost)) break;
    best.set(x);
    const mu = total / (2 * m + n);

    matrix.clear();
    for (let i = 0; i < m; i++) {
      const [a, b] = [l1[i] / s1[i], l2[i] / s2[i]];
      theta[i] = (4 * a * b) / (a + b) + squares[i];
    }
    addSquares(matrix, terms, theta);
    for (let i = 0; i < n; i++) k3[i] = l3[i] / s3[i];
    addSquares(matrix, limits, k3);
    for (let i = 0; i < size; i++) matrix.add(i, i, 1e-11);
    matrix.factor();

    // Predictor: straight for the optimum.
    for (let i = 0; i < m; i++) {
      c1[i] = l1[i] * s1[i];
      c2[i] = l2[i] * s2[i];
    }
    for (let i = 0; i < n; i++) c3[i] = l3[i] * s3[i];
    direction();
    const [ahead, back] = [room(primal), room(dual)];
    let predicted = 0;
    for (let i = 0; i < m; i++)
      predicted +=
        (l1[i] + back * dl1[i]) * (s1[i] + ahead * ds1[i]) +
        (l2[i] + back * dl2[i]) * (s2[i] + ahead * ds2[i]);
    for (let i = 0; i < n; i++) predicted += (l3[i] + back * dl3[i]) * (s3[i] + ahead * ds3[i]);
    const centring = Math.min(Math.max((predicted / total) ** 3, 1e-6), 1) * mu;

    // Corrector: towards the middle of what is allowed, with what the predictor left out.
    for (let i = 0; i < m; i++) {
      c1[i] += ds1[i] * dl1[i] - centring;
      c2[i] += ds2[i] * dl2[i] - centring;
    }
    for (let i = 0; i < n; i++) c3[i] += ds3[i] * dl3[i] - centring;
    direction();
    let [alpha, beta] = [room(primal), room(dual)];
    // With squares both go together: what is dual hangs on where x is.
    if (program.squares) alpha = beta = Math.min(alpha, beta);
    for (let i = 0; i < size; i++) x[i] += alpha * dx[i];
    for (let i = 0; i < m; i++) t[i] += alpha * dt[i];
    for (let i = 0; i < n; i++) s3[i] = Math.max(s3[i] + alpha * ds3[i], floor);
    for (let i = 0; i < m; i++) {
      l1[i] = Math.max(l1[i] + beta * dl1[i], floor);
      l2[i] = Math.max(l2[i] + beta * dl2[i], floor);
    }
    for (let i = 0; i < n; i++) l3[i] = Math.max(l3[i] + beta * dl3[i], floor);
    terms.times(x, r);
    limits.times(x, g);
    for (let i = 0; i < m; i++) {
      s1[i] = Math.max(t[i] - r[i], floor);
      s2[i] = Math.max(t[i] + r[i], floor);
    }
  }
  if (!converged) x.set(best);
  terms.times(x, r);
  return { x, cost: costOf(weights, squares, r), steps, converged };
}

function costOf(weights: Float64Array, squares: Float64Array, r: Float64Array): number {
  let cost = 0;
  for (let i = 0; i < r.length; i++) cost += weights[i] * Math.abs(r[i]) + 0.5 * squares[i] * r[i] * r[i];
  return cost;
}

/** Adds Σ weight·row·rowᵀ to a banded matrix. */
function addSquares(matrix: BandedMatrix, rows: SparseRows, weight: Float64Array): void {
  const { start, column, value } = rows.arrays;
  const { entries, reach } = matrix;
  for (let r = 0; r < weight.length; r++)
    for (let i = start[r]; i < start[r + 1]; i++) {
      const scaled = weight[r] * value[i];
      const row = column[i] * (reach + 1) - column[i] + reach;
      for (let j = start[r]; j <= i; j++) entries[row + column[j]] += scaled * value[j];
    }
}
