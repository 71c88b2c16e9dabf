/** All x with a·x ≤ b. */
export interface HalfSpace {
  a: readonly number[];
  b: number;
}

const tolerance = 1e-9;

/**
 * The point with the greatest c·x that lies in all half-spaces and in the box |xᵢ| ≤ bound, by randomised
 * incremental linear programming (Seidel 1991): expected time linear in the number of half-spaces.
 * Returns null when there is no such point. Half-spaces should be scaled alike.
 */
export function maximise(spaces: readonly HalfSpace[], c: readonly number[], bound: number): number[] | null {
  return solve(shuffled(spaces), c, bound);
}

function solve(spaces: readonly HalfSpace[], c: readonly number[], bound: number): number[] | null {
  if (c.length === 1) return solveLine(spaces, c[0], bound);
  let x = c.map((ci) => Math.sign(ci) * bound);
  for (let i = 0; i < spaces.length; i++) {
    const wall = spaces[i];
    if (dot(wall.a, x) <= wall.b + tolerance) continue;
    // The best point now lies on this wall: solve there, one dimension lower.
    const j = largest(wall.a);
    if (Math.abs(wall.a[j]) < 1e-12) return null;
    const onWall: HalfSpace[] = [];
    for (let k = 0; k < i; k++) onWall.push(restrict(spaces[k], wall, j));
    const axis = wall.a.map((_, m) => (m === j ? 1 : 0));
    onWall.push(restrict({ a: axis, b: bound }, wall, j));
    onWall.push(restrict({ a: axis.map((v) => -v), b: bound }, wall, j));
    const rest = solve(onWall, restrict({ a: c, b: 0 }, wall, j).a, bound);
    if (!rest) return null;
    const others = wall.a.filter((_, m) => m !== j);
    const xj = (wall.b - dot(others, rest)) / wall.a[j];
    x = [...rest.slice(0, j), xj, ...rest.slice(j)];
  }
  return x;
}

function solveLine(spaces: readonly HalfSpace[], c: number, bound: number): number[] | null {
  let low = -bound;
  let high = bound;
  for (const { a, b } of spaces) {
    if (a[0] > 1e-12) high = Math.min(high, b / a[0]);
    else if (a[0] < -1e-12) low = Math.max(low, b / a[0]);
    else if (b < -tolerance) return null;
  }
  if (low > high + tolerance) return null;
  if (c === 0) return [Math.min(Math.max(0, low), high)];
  return [c > 0 ? high : low];
}

/** The half-space as seen on the wall, where coordinate `j` follows from the others. */
function restrict(space: HalfSpace, wall: HalfSpace, j: number): HalfSpace {
  const f = space.a[j] / wall.a[j];
  return {
    a: space.a.map((v, m) => v - f * wall.a[m]).filter((_, m) => m !== j),
    b: space.b - f * wall.b,
  };
}

function dot(a: readonly number[], b: readonly number[]): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += a[i] * b[i];
  return sum;
}

function largest(a: readonly number[]): number {
  let j = 0;
  for (let m = 1; m < a.length; m++) if (Math.abs(a[m]) > Math.abs(a[j])) j = m;
  return j;
}

/** A copy in an order that is random but the same every time. */
function shuffled<T>(items: readonly T[]): T[] {
  const copy = [...items];
  let seed = 12345;
  for (let i = copy.length - 1; i > 0; i--) {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    const j = seed % (i + 1);
    [copy[i], copy[j]] = [copy[j], copy[i]];
  }
  return copy;
}
