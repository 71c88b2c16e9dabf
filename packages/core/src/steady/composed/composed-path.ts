import { apply, invert, matrixAt, multiply, type Mat3, type Point } from '../../geometry/mat3.js';
import { windowOf, type PictureSize, type View } from '../../framing/framing.js';
import { rowOutlineOf } from '../../framing/outline.js';
import type { RowMotion } from '../../solve/row-motion.js';
import type { WanderArea } from '../wander.js';
import { solveProgram } from './interior-point.js';
import { SparseRows } from './sparse-rows.js';

export interface ComposedOptions {
  /** Nine numbers a frame, reference frame → frame, clip pixels. */
  frameFromReference: Float64Array;
  size: View;
  /** The frames that are shown, both included. */
  first: number;
  last: number;
  /** No frame is zoomed more than this, but for its own jitter in size. */
  zoom: number;
  /** How large each frame would be without that jitter, reference frame → frame; as it is when left out. */
  evenScale?: Float64Array;
  /** Where rows were read one after another. */
  rows?: RowMotion | null;
  /** Where a point of the reference frame may wander in the steadied picture before framing. */
  within?: (WanderArea & { point: Point }) | null;
}

export interface ComposedPath {
  /**
   * Nine numbers a frame: output pixel → reference frame, a similarity about the output's middle. Frames outside the range
   * have that of its nearest end.
   */
  referenceFromOutput: Float64Array;
  /** Whether no frame of the range shows a bare edge. */
  fits: boolean;
}

/** What the first three differences of the path cost: standing still, steady moves, and eases between them. */
const orders: readonly (readonly [weight: number, difference: readonly number[], square: number])[] = [
  [0.1, [-1, 1], 0],
  // Squared as well, what has to be done is done gently: near the least acceleration that a zoom allows.
  [10, [1, -2, 1], 3000],
  [100, [-1, 3, -3, 1], 0],
];
/** Source pixels kept from the edge, so that rounding never shows it. */
const margin = 1e-3;
/** Rounds in which a point's place in the output settles. */
const wanderRounds = 2;
/** Unknowns a frame: a and b of the similarity, and its shift. */
const each = 4;

/**
 * The steadiest path that a zoom leaves room for: only stillness, steady moves and eased changes between them, as far as
 * no corner of the output leaves the frame (Grundmann, Kwatra & Essa 2011, L1-optimal camera paths). The unknowns are a
 * similarity a frame from output to reference frame about the output's middle, so that the limits are linear in them, for
 * perspective motions as well. Where no path fits, the least bare one that was found comes back.
 */
export function composePath(options: ComposedOptions): ComposedPath {
  const { frameFromReference, size, first, last, zoom, evenScale, rows = null, within } = options;
  const count = last - first + 1;
  const { width, height } = size;
  const [cx, cy] = [width / 2, height / 2];
  const window = windowOf(size);
  const [halfWidth, halfHeight] = [window.width / 2, window.height / 2];
  // In these units a turn or a change of size moves the corners by as many pixels as a shift does.
  const reachOut = Math.hypot(halfWidth, halfHeight);
  const [terms, limits] = [new SparseRows(), new SparseRows()];
  const [weights, squares, bounds]: number[][] = [[], [], []];
  for (let k = 0; k < count; k++)
    for (const [weight, difference, square] of orders) {
      if (k + difference.length > count) continue;
      for (let c = 0; c < each; c++) {
        terms.push(
          difference.map((_, i) => each * (k + i) + c),
          difference,
        );
        weights.push(weight);
        squares.push(square);
      }
    }
  for (let k = 0; k < count; k++) {
    const at = each * k;
    for (const { normal, offset } of rowOutlineOf(
      matrixAt(frameFromReference, first + k),
      size,
      rows,
      first + k,
    ))
      for (const u of [-halfWidth, halfWidth])
        for (const v of [-halfHeight, halfHeight]) {
          // The corner lies at (cx + x + a·u − b·v, cy + y + b·u + a·v); inside means normal·corner ≤ offset.
          const [nx, ny] = normal;
          limits.push(
            [at, at + 1, at + 2, at + 3],
            [(nx * u + ny * v) / reachOut, (ny * u - nx * v) / reachOut, nx, ny],
          );
          bounds.push(offset - nx * cx - ny * cy - margin);
        }
    // Along the frame's own turn an output pixel is at least 1/zoom of a source pixel. Where a frame is smaller for a moment,
    // the size that it has on the whole counts: else one small frame would take its room from all those about it.
    const { scale, cos, sin } = turnAndSize(matrixAt(frameFromReference, first + k), size);
    limits.push([at, at + 1], [-cos / reachOut, sin / reachOut]);
    bounds.push(-1 / (zoom * Math.max(scale, evenScale?.[first + k] ?? 0)));
  }
  /** What a point's staying inside an area of the output asks of the output's place, turned and sized as `x` has it. */
  function keepWithin(
    { point, left, top, right, bottom }: NonNullable<typeof within>,
    x: Float64Array,
  ): void {
    for (let k = 0; k < count; k++) {
      const at = each * k;
      const [a, b] = [x[at] / reachOut, x[at + 1] / reachOut];
      const size = a * a + b * b;
      // Output less its middle is A⁻¹·(point − middle − shift), with A = (a −b; b a).
      const [px, py] = [point.x - cx, point.y - cy];
      const [u, v] = [(a * px + b * py) / size, (a * py - b * px) / size];
      const sides: [number, number, number][] = [
        [-a, -b, zoom * (right - cx) - u],
        [a, b, u - zoom * (left - cx)],
        [b, -a, zoom * (bottom - cy) - v],
        [-b, a, v - zoom * (top - cy)],
      ];
      for (const [nx, ny, bound] of sides) {
        limits.push([at + 2, at + 3], [nx / size, ny / size]);
        bounds.push(bound);
      }
    }
  }
  const start = new Float64Array(each * count);
  for (let k = 0; k < count; k++) {
    // To begin with the output goes along with the frame.
    const frame = matrixAt(frameFromReference, first + k);
    const middle = apply(invert(frame), cx, cy);
    const { scale, cos, sin } = turnAndSize(frame, size);
    const between = reachOut / (scale * Math.sqrt(zoom));
    start[each * k] = between * cos;
    start[each * k + 1] = -between * sin;
    start[each * k + 2] = middle.x - cx;
    start[each * k + 3] = middle.y - cy;
  }
  const kept = bounds.length;
  const solve = (from: Float64Array): Float64Array =>
    solveProgram(
      {
        size: each * count,
        reach: each * 3 + each - 1,
        terms,
        weights: Float64Array.from(weights),
        squares: Float64Array.from(squares),
        limits,
        bounds: Float64Array.from(bounds),
      },
      from,
    ).x;
  let x: Float64Array = start;
  // Where a point is in the output hangs on how that is turned and sized there: as it was a round before.
  for (let round = 0; round < (within ? wanderRounds : 1); round++) {
    limits.cut(kept);
    bounds.length = kept;
    if (within) keepWithin(within, x);
    x = solve(start);
  }
  const reached = new Float64Array(bounds.length);
  limits.times(x, reached);
  const fits = reached.every((value, i) => value <= bounds[i] + margin);
  const frames = frameFromReference.length / 9;
  const referenceFromOutput = new Float64Array(9 * frames);
  for (let frame = 0; frame < frames; frame++) {
    const at = each * (Math.min(Math.max(frame, first), last) - first);
    const [a, b, dx, dy] = [x[at] / reachOut, x[at + 1] / reachOut, x[at + 2], x[at + 3]];
    referenceFromOutput.set(
      [a, -b, cx + dx - a * cx + b * cy, b, a, cy + dy - b * cx - a * cy, 0, 0, 1],
      9 * frame,
    );
  }
  return { referenceFromOutput, fits };
}

/** How a matrix turns and sizes things at the frame's middle. */
function turnAndSize(frame: Mat3, { width, height }: PictureSize) {
  const { x, y } = apply(invert(frame), width / 2, height / 2);
  const depth = frame[6] * x + frame[7] * y + frame[8];
  // The derivative there, of which the similarity part counts.
  const along = (r: number, c: number): number =>
    (frame[3 * r + c] - frame[6 + c] * (r === 0 ? width / 2 : height / 2)) / depth;
  const a = (along(0, 0) + along(1, 1)) / 2;
  const b = (along(1, 0) - along(0, 1)) / 2;
  const scale = Math.hypot(a, b);
  return { scale, cos: a / scale, sin: b / scale };
}

/** The corrections that a composed path comes to, before a framing of its zoom: frame k → steadied picture. */
export function correctionsOf(
  { referenceFromOutput }: ComposedPath,
  frameFromReference: Float64Array,
  framing: Mat3,
): Float64Array {
  const unframed = invert(framing);
  const corrections = new Float64Array(frameFromReference.length);
  for (let k = 0; 9 * k < corrections.length; k++) {
    const outputFromReference = invert(matrixAt(referenceFromOutput, k));
    const referenceFromFrame = invert(matrixAt(frameFromReference, k));
    corrections.set(multiply(unframed, multiply(outputFromReference, referenceFromFrame)), 9 * k);
  }
  return corrections;
}
