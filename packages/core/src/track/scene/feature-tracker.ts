import type { Point } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import { cornersIn } from '../image/corners.js';
import type { MappedPlane } from '../image/patch.js';
import { buildPyramid, levelEntry, noise, textureIn, type Pyramid } from '../image/pyramid.js';

/** What was found of the features on one frame. */
export interface FeatureFrame {
  frame: number;
  /** Which features; numbers are never used twice in a clip. */
  ids: Int32Array;
  /** Where each is, clip pixels: x, y; x, y; … */
  places: Float32Array;
}

/** The copy that features are registered on: less than twice this wide. Carrying them on takes the halves of it. */
const anchorWidth = 800;
const levels = 5;
/** Cells across the picture; one feature a cell. */
const columns = 20;
const carryWindow = 11;
const anchorWindow = 15;
/** New features are looked for every so many frames, and when fewer than this share of those after the last time are left. */
const pace = 8;
const thinned = 0.7;
/** Weaker corners are not worth following, squared grey levels a pixel. */
const leastCorner = 1.5;
/** Carried places farther than this from where the anchor says are wrong, pixels of the anchor's copy. */
const mostOff = 1.5;
/** A window's difference from its anchor, of its contrast: more is another thing; more than the second asks for a new anchor. */
const mostUnlike = 0.45;
const ageing = 0.25;
const youngest = 4;
/** So many frames in a row a feature may go unseen. */
const mostMisses = 3;
/** With fewer of the features found than this the picture as a whole was not followed. */
const leastFollowed = 0.25;
const fewest = 6;

/** A picture whose windows features are compared with, for as long as one of them is. */
interface Anchor {
  pyramid: Pyramid;
  users: number;
}

interface Feature {
  id: number;
  cell: number;
  /** Where it is, and how far it went with the last frame, pixels of the anchor's copy. */
  x: number;
  y: number;
  vx: number;
  vy: number;
  anchor: Anchor;
  /** Where it was on the anchor's picture, how much its window varies there, and on which frame that was. */
  ax: number;
  ay: number;
  contrast: number;
  since: number;
  misses: number;
}

/** What a step found, before anything is changed by it. */
interface Step {
  places: Float64Array;
  likeness: Float32Array;
  seen: boolean[];
}

/**
 * Follows many features through the frames of one shot. Each is carried on from frame to frame by flow on small copies, and
 * then registered against the picture in which it was first seen, so that nothing drifts (SCENE: anchored features).
 * Brightness may change. One picture is looked at once; a step that fails changes nothing.
 */
export class FeatureTracker {
  private readonly features: Feature[] = [];
  private last: Anchor | null = null;
  private lastFrame = 0;
  /** Frames since features were looked for, and how many there were then. */
  private sinceSeeded = pace;
  private seeded = 0;
  private scale = 1;

  constructor(
    private readonly kernels: TrackKernels,
    /** Gives numbers to features. */
    private readonly nextId: () => number,
    /** Where features may be looked for, clip pixels. */
    private readonly mayLook: (at: Point) => boolean = () => true,
  ) {}

  /** Whether anything is being followed. */
  get holds(): boolean {
    return this.features.length >= fewest;
  }

  /** Begins on a picture, or goes on to the next; null where it does not follow from the last one. */
  step(picture: MappedPlane, frame: number, guess?: Point): FeatureFrame | null {
    const pyramid = buildPyramid(this.kernels, picture, anchorWidth, levels);
    this.scale = picture.width / pyramid.planes[0].width;
    const here: Anchor = { pyramid, users: 1 };
    if (this.last) {
      const step = this.holds ? this.follow(here, guess) : null;
      if (!step || !this.isFollowed(step, pyramid)) {
        this.release(here);
        return null;
      }
      this.take(step, here, frame);
    }
    this.setLast(here, frame);
    return this.report(frame);
  }

  /** Gives back what it holds of the kernels' memory. */
  end(): void {
    for (const { anchor } of this.features) this.release(anchor);
    this.features.length = 0;
    if (this.last) this.release(this.last);
    this.last = null;
  }

  /** How the whole picture went from the last one looked at, by the coarsest copies; clip pixels. */
  coarseShift(picture: MappedPlane): Point | null {
    if (!this.last) return null;
    const pyramid = buildPyramid(this.kernels, picture, anchorWidth, levels);
    const shift = bestShift(this.kernels, this.last.pyramid, pyramid);
    this.kernels.free(pyramid.table, pyramid.bytes);
    const scale = picture.width / pyramid.planes[0].width;
    return shift && { x: scale * shift.x, y: scale * shift.y };
  }

  private setLast(here: Anchor, frame: number): void {
    if (++this.sinceSeeded >= pace || this.features.length < thinned * this.seeded) {
      this.seed(here, frame);
      this.sinceSeeded = 0;
      this.seeded = this.features.length;
    }
    if (this.last) this.release(this.last);
    this.last = here;
    this.lastFrame = frame;
  }

  private release(anchor: Anchor): void {
    if (--anchor.users === 0) this.kernels.free(anchor.pyramid.table, anchor.pyramid.bytes);
  }

  private follow(here: Anchor, guess?: Point): Step {
    const { features, kernels, scale } = this;
    const count = features.length;
    const before = (this.last as Anchor).pyramid;
    const coarse = Math.min(1, before.planes.length - 1);
    const down = 2 ** coarse;
    const from = new Float64Array(2 * count);
    const places = new Float64Array(2 * count);
    features.forEach((f, i) => {
      from[2 * i] = f.x / down;
      from[2 * i + 1] = f.y / down;
      places[2 * i] = (f.x + (guess ? guess.x / scale : f.vx)) / down;
      places[2 * i + 1] = (f.y + (guess ? guess.y / scale : f.vy)) / down;
    });
    const carried = flowOn(kernels, before, here.pyramid, coarse, levels, from, places, carryWindow);
    for (let i = 0; i < 2 * count; i++) places[i] = down * carried.places[i];
    const likeness = new Float32Array(count).fill(-1);
    const seen = features.map(() => false);
    for (const [anchor, members] of this.byAnchor()) {
      const at = new Float64Array(2 * members.length);
      const guesses = new Float64Array(2 * members.length);
      members.forEach((i, n) => {
        at.set([features[i].ax, features[i].ay], 2 * n);
        guesses.set([places[2 * i], places[2 * i + 1]], 2 * n);
      });
      const found = flowOn(kernels, anchor.pyramid, here.pyramid, 0, 1, at, guesses, anchorWindow);
      members.forEach((i, n) => {
        const [x, y] = [found.places[2 * n], found.places[2 * n + 1]];
        const off = Math.hypot(x - places[2 * i], y - places[2 * i + 1]);
        const difference = found.residual[n];
        const limit = noise + mostUnlike * features[i].contrast;
        likeness[i] = difference;
        if (carried.residual[i] < 0 || difference < 0 || difference > limit || off > mostOff) return;
        seen[i] = true;
        places[2 * i] = x;
        places[2 * i + 1] = y;
      });
    }
    return { places, likeness, seen };
  }

  private byAnchor(): Map<Anchor, number[]> {
    const groups = new Map<Anchor, number[]>();
    this.features.forEach(({ anchor }, i) => {
      const members = groups.get(anchor);
      if (members) members.push(i);
      else groups.set(anchor, [i]);
    });
    return groups;
  }

  /** Whether enough of the features that are still inside were found. */
  private isFollowed({ places, seen }: Step, { planes: [{ width, height }] }: Pyramid): boolean {
    let [inside, found] = [0, 0];
    for (let i = 0; i < seen.length; i++) {
      const [x, y] = [places[2 * i], places[2 * i + 1]];
      if (
        !seen[i] &&
        !(x > anchorWindow && y > anchorWindow && x < width - anchorWindow && y < height - anchorWindow)
      )
        continue;
      inside++;
      if (seen[i]) found++;
    }
    return found >= fewest && found >= leastFollowed * inside;
  }

  private take({ places, likeness, seen }: Step, here: Anchor, frame: number): void {
    const gap = Math.max(frame - this.lastFrame, 1);
    this.features.forEach((f, i) => {
      f.misses = seen[i] ? 0 : f.misses + 1;
      if (seen[i]) [f.vx, f.vy] = [(places[2 * i] - f.x) / gap, (places[2 * i + 1] - f.y) / gap];
      [f.x, f.y] = [places[2 * i], places[2 * i + 1]];
      const isAged = likeness[i] > noise + ageing * f.contrast && frame - f.since >= youngest;
      if (seen[i] && isAged) this.anchorAt(f, here, frame);
    });
    let kept = 0;
    for (const f of this.features) {
      if (f.misses <= mostMisses) this.features[kept++] = f;
      else this.release(f.anchor);
    }
    this.features.length = kept;
  }

  private anchorAt(f: Feature, here: Anchor, frame: number): void {
    this.release(f.anchor);
    here.users++;
    const [, contrast] = textureIn(this.kernels, here.pyramid, new Float64Array([f.x, f.y]), anchorWindow);
    Object.assign(f, { anchor: here, ax: f.x, ay: f.y, since: frame, contrast });
  }

  /** Looks for a feature in every cell that has none. */
  private seed(here: Anchor, frame: number): void {
    const { kernels, features, scale } = this;
    const { planes } = here.pyramid;
    const { at, width, height } = planes[Math.min(1, planes.length - 1)];
    const down = planes[0].width / width;
    const cell = Math.max(4 * Math.round(width / columns / 4), 8);
    const across = Math.floor(width / cell);
    const cellOf = (x: number, y: number): number =>
      Math.floor(y / down / cell) * across + Math.min(Math.floor(x / down / cell), across - 1);
    const taken = new Set(features.map(({ x, y }) => cellOf(x, y)));
    const fresh = cornersIn(kernels, at, width, height, cell)
      .filter(({ score }) => score > leastCorner)
      .map(({ x, y }) => ({ x: Math.floor(down * x) + 0.5, y: Math.floor(down * y) + 0.5 }))
      .filter(({ x, y }) => !taken.has(cellOf(x, y)) && this.mayLook({ x: scale * x, y: scale * y }));
    const texture = textureIn(
      kernels,
      here.pyramid,
      Float64Array.from(fresh.flatMap(({ x, y }) => [x, y])),
      anchorWindow,
    ).slice();
    fresh.forEach(({ x, y }, i) => {
      here.users++;
      features.push({
        ...{ id: this.nextId(), cell: cellOf(x, y), x, y, vx: 0, vy: 0, misses: 0 },
        ...{ anchor: here, ax: x, ay: y, contrast: texture[2 * i + 1], since: frame },
      });
    });
    this.lendVelocities(features.length - fresh.length);
  }

  /** New features go, to begin with, as the old one nearest to them does. */
  private lendVelocities(old: number): void {
    const known = this.features.slice(0, old);
    for (const f of this.features.slice(old)) {
      let nearest = Infinity;
      for (const k of known) {
        const distance = (k.x - f.x) ** 2 + (k.y - f.y) ** 2;
        if (distance < nearest) [nearest, f.vx, f.vy] = [distance, k.vx, k.vy];
      }
    }
  }

  private report(frame: number): FeatureFrame {
    const seen = this.features.filter(({ misses }) => misses === 0);
    const places = new Float32Array(2 * seen.length);
    seen.forEach(({ x, y }, i) => places.set([this.scale * x, this.scale * y], 2 * i));
    return { frame, ids: Int32Array.from(seen, ({ id }) => id), places };
  }
}

/** Flow from one level of a pyramid on, for places (x, y; x, y; …) of that level. */
function flowOn(
  kernels: TrackKernels,
  before: Pyramid,
  after: Pyramid,
  finest: number,
  count: number,
  from: Float64Array,
  guesses: Float64Array,
  window: number,
): { places: Float64Array; residual: Float32Array } {
  const n = from.length / 2;
  const points = kernels.scratch('flow points', 16 * n);
  const found = kernels.scratch('flow found', 16 * n);
  const residual = kernels.scratch('flow residual', 4 * n);
  kernels.putDoubles(points, from);
  kernels.putDoubles(found, guesses);
  const used = Math.min(count, before.planes.length - finest, after.planes.length - finest);
  const skip = finest * levelEntry;
  kernels.flow(before.table + skip, after.table + skip, used, points, found, n, window, 8, 0.02, residual, 1);
  return { places: kernels.doublesAt(found, 2 * n).slice(), residual: kernels.floats(residual, n).slice() };
}

/** Shifts are looked for on a level about this wide, at every so many of its pixels. */
const shiftWidth = 60;
const sparse = 2;
/** Less of the picture than this in common tells nothing of a shift. */
const leastCommon = 0.3;
const leastCorrelation = 0.5;

/** The shift at which small copies of two pictures correlate best, in pixels of the finest level; null where none does well. */
function bestShift(kernels: TrackKernels, before: Pyramid, after: Pyramid): Point | null {
  const level = before.planes.findIndex(({ width }) => width < 1.5 * shiftWidth);
  const { at, width, height } = before.planes[level < 0 ? before.planes.length - 1 : level];
  const other = after.planes[level < 0 ? after.planes.length - 1 : level];
  const a = kernels.bytes(at, width * height).slice();
  const b = kernels.bytes(other.at, width * height).slice();
  let best = leastCorrelation;
  let found: Point | null = null;
  const [mostX, mostY] = [Math.floor(width * (1 - leastCommon)), Math.floor(height * (1 - leastCommon))];
  for (let dy = -mostY; dy <= mostY; dy++)
    for (let dx = -mostX; dx <= mostX; dx++) {
      if ((width - Math.abs(dx)) * (height - Math.abs(dy)) < leastCommon * width * height) continue;
      const score = correlationAt(a, b, width, height, dx, dy);
      if (score > best) [best, found] = [score, { x: dx, y: dy }];
    }
  const down = before.planes[0].width / width;
  return found && { x: down * found.x, y: down * found.y };
}

function correlationAt(
  a: Uint8Array,
  b: Uint8Array,
  width: number,
  height: number,
  dx: number,
  dy: number,
): number {
  let [sa, sb, saa, sbb, sab, n] = [0, 0, 0, 0, 0, 0];
  const [fromX, toX] = [Math.max(0, -dx), Math.min(width, width - dx)];
  for (let y = Math.max(0, -dy); y < Math.min(height, height - dy); y += sparse)
    for (let x = fromX; x < toX; x += sparse) {
      const p = a[y * width + x];
      const q = b[(y + dy) * width + x + dx];
      sa += p;
      sb += q;
      saa += p * p;
      sbb += q * q;
      sab += p * q;
      n++;
    }
  const spread = (saa - (sa * sa) / n) * (sbb - (sb * sb) / n);
  return spread > 0 ? (sab - (sa * sb) / n) / Math.sqrt(spread) : 0;
}
