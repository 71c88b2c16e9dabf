import { InputError } from '../../input-error.js';
import {
  apply,
  fromSquarePixels,
  identity,
  invert,
  multiply,
  toSquarePixels,
  type Mat3,
  type Point,
} from '../../geometry/mat3.js';
import { poseMatrix, poseOf } from '../../geometry/pose.js';
import { boxCorners, quadFromQuad, type Quad } from '../../geometry/quad.js';
import type { WarpModel } from '../../geometry/warp-model.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { Analysis, TrackPicture } from '../image/analysis.js';
import { Reason } from '../sample-reason.js';
import { placeIn, SampleState, type Place, type PlaceGiven, type Sample } from '../samples.js';
import type { SceneChange } from '../scene/scene-motion.js';
import { pictureLevels, type PictureLevel } from './picture-levels.js';
import { boxAbout, isConvex, outlineAt, polygonOn, type RegionOptions } from './region.js';
import { regionVerdict } from './region-certainty.js';
import { blocksAcross, cutRegion, freeRegion, levelsFor, type RegionTemplate } from './region-template.js';
import { searchRegion } from './region-search.js';
import { errorAt, errorOfTexture, registerLevel, type Light, type RegionFit } from './register-region.js';

export interface RegionTrackerOptions {
  region: RegionOptions;
  model: WarpModel;
  analysis: Analysis;
  /** Below this confidence the sample is `lost`. */
  threshold: number;
}

/** Pixels about the place where a region is expected that are looked at; and where it must be searched for. */
const margin = 40;
const [leastRadius, mostRadius, radiusGrowth] = [112, 300, 12];
/** Best places of a search that are looked into. */
const candidates = 3;
/** The finest of these levels tells whether what was found is the region: grain counts less there. */
const judging = 1;
/** With what was seen just now, registration begins on this level. */
const firstLevel = 2;
/** With this share of the structure that agreed at the best, nothing else needs to be tried. */
const [usualGrip, plainGrip] = [0.9, 0.5];
/** With freedom enough, what covers a part can be bent into agreeing: something farther off must agree so much better. */
const preferred = 1.3;
/** With less than this it is not where it was looked for. */
const leastGrip = 0.3;
/** Nor where so many times as much is left over as usually, grey levels. */
const mostResidual = 2;
/** What is left over does not grow faster than this from frame to frame: more is something in the way. */
const residualGrowth = 1.1;
/** Nor is it forgotten faster, share a frame. */
const settling = 0.1;

/** Texture that does not tell the corners to so many pixels holds nothing. */
const mostError = 2;

/** Where a region was found, and how exactly. */
interface Found {
  fit: RegionFit;
  /** How alike it is where grain counts less. */
  likeness: number;
  /** The share of the template that was looked at. */
  open: number;
  error: number;
  /** What was left over on each level that was gone through. */
  residuals: number[];
}

/** What of a region is in the way of something on a frame: quads of the picture, clip pixels, and their share of it. */
export interface LeftOut {
  share: number;
  quads: Quad[];
}

/** How a registration goes down the levels: in stages, affine first; or from about where it is. */
interface Descent {
  staged: boolean;
  isNear: boolean;
  light?: Light;
  leftOut?: Uint8Array;
}

/** From about where it is; so, but believing all; and from farther off. */
const ways: readonly Descent[] = [
  { staged: false, isNear: true },
  { staged: false, isNear: false },
  { staged: true, isNear: false },
];

/**
 * Follows a flat thing as a whole from frame to frame: each frame is registered to the last key's picture directly, so that
 * nothing drifts. The same steps as a point's tracker, for the same passes.
 */
export class RegionTracker {
  private template: RegionTemplate | null = null;
  /** The look of the key stands so on its frame: from offsets about the region's middle, square pixels. */
  private keyMatrix: Mat3 = identity;
  private corners: Quad = [origin, origin, origin, origin];
  private quad: Quad = this.corners;
  private aspect = 1;
  /** From the key's clip pixels to the last picture's, and to the one before it; null where it was not seen there. */
  private pose: Mat3 = identity;
  private before: Mat3 | null = null;
  private missing = 0;
  private light: Light | undefined;
  /** What is usually left over on each level, grey levels, and how much of its structure agreed at the best. */
  private usual: number[] = [];
  private bestGrip = usualGrip;
  private turned = 0;
  private thoughtAt: Mat3 = identity;
  private where: Point = origin;
  /** True after a step that ended at a cut to another shot. */
  cut = false;
  /** What the last look left out, by block of the key's box, row by row. */
  leftOut: Uint8Array | null = null;
  readonly relativeVelocity: Point = { x: 0, y: 0 };

  constructor(
    private readonly kernels: TrackKernels,
    private readonly options: RegionTrackerOptions,
    /** Whether it must find its way while the region is missing. */
    private readonly goesOn = false,
  ) {}

  /** Takes the region's look on a key. Throws an InputError where there is nothing of it in the picture. */
  setKey(picture: TrackPicture, key: PlaceGiven, _offset: Point | undefined, frame: number): void {
    this.dispose();
    const { region, model, analysis } = this.options;
    this.aspect = picture.pixelAspect ?? 1;
    this.keyMatrix = poseMatrix({ ...placeIn(key), x: key.x * this.aspect });
    const polygons = outlineAt(region.outlines, frame).polygons.map((polygon) =>
      polygon.map((p) => this.onKey(p)),
    );
    const box = boxAbout(polygons);
    const levels = levelsFor(polygons);
    const grown = grownBy(box, 2 ** (levels + 1));
    const seen = pictureLevels(this.kernels, picture, analysis, grown, levels, 'region key');
    const template = cutRegion(this.kernels, seen, polygons, this.holdOutsAt(frame), model, this.aspect);
    if (!template) throw new InputError(nothingThere);
    const corners = boxCorners(box);
    if (!template.isTextured || !(errorOfTexture(this.kernels, template, corners) < mostError)) {
      freeRegion(this.kernels, template);
      throw new InputError(nothingThere);
    }
    this.template = template;
    this.corners = corners;
    this.quad = region.quad.map((p) => this.onKey(p)) as unknown as Quad;
    this.where = { x: key.x, y: key.y };
    this.turned = key.rotation;
    this.light = { gain: 1, bias: 0 };
    this.usual = [];
    this.bestGrip = usualGrip;
    this.startAt(identity);
  }

  /** Goes on from a sample found earlier, with the key's look. */
  resumeFrom(sample: PlaceGiven): void {
    const here = poseMatrix({ ...placeIn(sample), x: sample.x * this.aspect });
    this.startAt(fromSquarePixels(multiply(here, invert(this.keyMatrix)), this.aspect));
    this.turned = sample.rotation;
  }

  private startAt(pose: Mat3): void {
    this.pose = pose;
    this.before = null;
    this.missing = 0;
    this.thoughtAt = pose;
  }

  dispose(): void {
    if (this.template) freeRegion(this.kernels, this.template);
    this.template = null;
  }

  /** Where the last step thought the region would be before it looked. */
  get thought(): Place {
    return this.placeAt(this.thoughtAt);
  }

  get middle(): Point {
    return apply(this.pose, this.where.x, this.where.y);
  }

  /** A point of the reference frame, clip pixels, on the key's. */
  private onKey({ x, y }: Point): Point {
    const { centre } = this.options.region;
    const p = apply(this.keyMatrix, (x - centre.x) * this.aspect, y - centre.y);
    return { x: p.x / this.aspect, y: p.y };
  }

  private holdOutsAt(frame: number): Point[][] {
    return this.options.region.holdOuts.map((holdOut) => polygonOn(holdOut, frame));
  }

  /** Looks for the region in the next picture in the direction of travel, as a point's tracker does. */
  step(
    picture: TrackPicture,
    scene: (() => SceneChange) | undefined,
    _drift: Point | undefined,
    frame: number,
  ): Sample {
    const { template, missing } = this;
    if (!template) throw new Error('A region tracker needs a key before it can follow.');
    this.cut = false;
    const holdOuts = this.holdOutsAt(frame);
    const change = missing > 0 && this.goesOn ? scene?.() : undefined;
    const expected = change?.motion ? multiply(change.motion, this.pose) : this.onward();
    this.thoughtAt = expected;
    const isKnown = this.before !== null;
    // Where it is expected only what agrees there is believed: what pulls it elsewhere is in its way.
    const near = missing === 0 ? this.levelsAbout(picture, [expected], margin) : null;
    let found = near && isKnown ? this.registerNear(near, expected, holdOuts, ways[0]) : null;
    const by = isKnown ? preferred : 1;
    if (!this.isPlain(found, plainGrip)) {
      if (near)
        for (const way of ways.slice(1))
          found = this.better(found, this.registerNear(near, expected, holdOuts, way), by);
      const told = missing === 0 ? scene?.() : change;
      if (told?.cut) {
        this.cut = true;
        return this.lose(picture, expected, 0, Reason.cut);
      }
      const starts = [expected, this.pose];
      if (told?.motion && missing === 0) starts.push(multiply(told.motion, this.pose));
      found = this.better(found, this.search(picture, starts, holdOuts), by);
    }
    if (!found) return this.lose(picture, expected, 0, Reason.missing);
    const { confidence, reason } = this.verdict(found);
    if (confidence < this.options.threshold || !this.isPlain(found, leastGrip))
      return this.lose(picture, expected, Math.min(confidence, 0.4), reason || Reason.missing);
    this.before = this.missing === 0 ? this.pose : null;
    this.pose = found.fit.matrix;
    this.missing = 0;
    this.light = { gain: found.fit.gain, bias: found.fit.bias };
    this.leftOut = found.fit.leftOut;
    found.residuals.forEach((residual, k) => {
      const floor = (this.template as RegionTemplate).levels[k].roundOff;
      const before = Math.max(this.usual[k] ?? residual, floor);
      this.usual[k] =
        residual < before
          ? before + settling * (residual - before)
          : Math.min(residual, residualGrowth * before);
    });
    this.bestGrip = Math.max(this.bestGrip, found.fit.grip);
    return this.sampleAt(this.pose, confidence, SampleState.tracked, reason);
  }

  /**
   * What of the region is left out on a picture where a sample says it is, with the key's look: quads of the picture, clip
   * pixels, and their share of it. Null where it does not fit there.
   */
  leftOutAt(picture: TrackPicture, sample: PlaceGiven, frame: number): LeftOut | null {
    this.resumeFrom(sample);
    const near = this.levelsAbout(picture, [this.pose], margin);
    const found = near && this.registerNear(near, this.pose, this.holdOutsAt(frame), ways[0]);
    if (!found) return null;
    const { matrix, leftOut } = found.fit;
    const [{ x: left, y: top }, , { x: right, y: bottom }] = this.corners;
    const [w, h] = [(right - left) / blocksAcross, (bottom - top) / blocksAcross];
    const quads: Quad[] = [];
    leftOut.forEach((out, block) => {
      if (!out) return;
      const [x, y] = [left + (block % blocksAcross) * w, top + Math.floor(block / blocksAcross) * h];
      const box = boxCorners({ left: x, top: y, right: x + w, bottom: y + h });
      quads.push(box.map((p) => apply(matrix, p.x, p.y)) as unknown as Quad);
    });
    return { share: 1 - found.open, quads };
  }

  /** Of two finds the one that more agrees with, the second by so much at least. */
  private better(one: Found | null, other: Found | null, by = 1): Found | null {
    return one && (!other || by * this.worth(one) >= this.worth(other)) ? one : other;
  }

  /** How much of it agrees, how alike that is, and how little is left over for what usually is. */
  private worth({ fit, likeness, residuals }: Found): number {
    return (fit.grip * Math.max(likeness, 0)) / Math.max(this.excessOf(residuals), 1);
  }

  private verdict({ likeness, open, error, residuals }: Found): { confidence: number; reason: Reason } {
    return regionVerdict(likeness, open, error, this.excessOf(residuals));
  }

  /** What is left over on the finest level, for what usually is; 1 while that is not known. */
  private excessOf([residual]: readonly number[]): number {
    const usual = this.usual[0] as number | undefined;
    return usual === undefined ? 1 : residual / usual;
  }

  /** Where it would be if it went on as it went: its box's corners, each on its own way. */
  private onward(): Mat3 {
    const { before, pose, corners } = this;
    if (!before) return pose;
    const ahead = corners.map(({ x, y }) => {
      const [now, then] = [apply(pose, x, y), apply(before, x, y)];
      return { x: 2 * now.x - then.x, y: 2 * now.y - then.y };
    }) as unknown as Quad;
    return (isConvex(ahead) && quadFromQuad(ahead, corners)) || pose;
  }

  private levelsAbout(picture: TrackPicture, poses: readonly Mat3[], by: number): PictureLevel[] | null {
    const box = boxAbout(poses.map((pose) => this.corners.map(({ x, y }) => apply(pose, x, y))));
    const { left, top, right, bottom } = grownBy(box, by);
    if (!(right > 8 && bottom > 8 && left < picture.width - 8 && top < picture.height - 8)) return null;
    const { levels } = this.template as RegionTemplate;
    return pictureLevels(
      this.kernels,
      picture,
      this.options.analysis,
      { left, top, right, bottom },
      levels.length,
      'region picture',
    );
  }

  /** Whether what was found is as good as ever. */
  private isPlain(found: Found | null, share: number): boolean {
    return found !== null && this.isUsable(found) && found.fit.grip >= share * this.bestGrip;
  }

  private registerNear(
    seen: readonly PictureLevel[],
    expected: Mat3,
    holdOuts: readonly (readonly Point[])[],
    way: Descent,
  ): Found | null {
    const { levels } = this.template as RegionTemplate;
    const from = way.staged ? levels.length - 1 : Math.min(firstLevel, levels.length - 1);
    const leftOut = way.isNear ? (this.leftOut ?? undefined) : undefined;
    return this.descend(seen, expected, from, holdOuts, { ...way, light: this.light, leftOut });
  }

  /** From a level down to the finest; `staged` is affine where it is coarse. */
  private descend(
    pictures: readonly PictureLevel[],
    start: Mat3,
    from: number,
    holdOuts: readonly (readonly Point[])[],
    { staged, isNear, light, leftOut }: Descent,
  ): Found | null {
    const { kernels, quad } = this;
    const template = this.template as RegionTemplate;
    const { levels, model } = template;
    let matrix = start;
    let fit: RegionFit | null = null;
    let likeness = 0;
    const residuals: number[] = [];
    let known = light;
    const judge = Math.min(judging, levels.length - 1);
    for (let k = from; k >= 0; k--) {
      fit = registerLevel(kernels, template, levels[k], pictures[k], matrix, {
        model: staged && (k === from || k >= 2) ? early(model) : model,
        steps: staged ? 16 : k === 0 ? 10 : 6,
        holdOuts,
        light: known,
        leftOut: fit?.leftOut ?? leftOut,
        isNear,
        usual: this.usual[k],
      });
      if (!fit) return null;
      matrix = fit.matrix;
      known = { gain: fit.gain, bias: fit.bias };
      residuals[k] = fit.residual;
      if (k === judge) likeness = fit.score;
    }
    if (!fit) return null;
    const left = fit.leftOut.reduce((sum, out) => sum + out, 0) / fit.leftOut.length;
    const error = errorAt(fit, template, levels[0], quad);
    return { fit, likeness, open: fit.seen * (1 - left), error, residuals };
  }

  private search(
    picture: TrackPicture,
    starts: readonly Mat3[],
    holdOuts: readonly (readonly Point[])[],
  ): Found | null {
    const { levels } = this.template as RegionTemplate;
    const radius = Math.min(leastRadius + radiusGrowth * this.missing, mostRadius);
    const seen = this.levelsAbout(picture, starts, radius + margin);
    if (!seen) return null;
    const top = levels.length - 1;
    const places = searchRegion(this.kernels, levels[top], seen[top], starts, radius, candidates);
    let best: Found | null = null;
    for (const { matrix } of places) {
      const found = this.descend(seen, matrix, top, holdOuts, { staged: true, isNear: false });
      if (found && this.isUsable(found)) best = this.better(best, found);
    }
    return best;
  }

  /** Whether what was found can be the thing: turned inside out, or much unlike it, it is not. */
  private isUsable({ fit, residuals }: Found): boolean {
    const corners = this.corners.map(({ x, y }) => apply(fit.matrix, x, y)) as unknown as Quad;
    const usual = this.usual[0] as number | undefined;
    const isLike = usual === undefined || residuals[0] <= mostResidual * usual;
    return isLike && isConvex(corners);
  }

  private lose({ width, height }: TrackPicture, expected: Mat3, confidence: number, reason: Reason): Sample {
    this.missing++;
    this.before = null;
    this.pose = expected;
    this.leftOut = null;
    const { left, top, right, bottom } = boxAbout([this.corners.map(({ x, y }) => apply(expected, x, y))]);
    const inside = right > 0 && bottom > 0 && left < width && top < height;
    return this.sampleAt(
      expected,
      confidence,
      SampleState.lost,
      inside || this.cut ? reason : Reason.outside,
    );
  }

  private placeAt(pose: Mat3): Place {
    const { aspect } = this;
    const place = poseOf(multiply(toSquarePixels(pose, aspect), this.keyMatrix));
    place.x /= aspect;
    place.rotation += 2 * Math.PI * Math.round((this.turned - place.rotation) / (2 * Math.PI));
    return place;
  }

  private sampleAt(pose: Mat3, confidence: number, state: SampleState, reason: Reason): Sample {
    const place = this.placeAt(pose);
    this.turned = place.rotation;
    return { ...place, confidence, state, reason };
  }
}

const origin: Point = { x: 0, y: 0 };

/** What is said of a region that nothing can be followed by. */
export const nothingThere =
  'There is too little of the region in the picture, or nothing on it, to follow it from here.';

const early = (model: WarpModel): WarpModel => (model === 'homography' ? 'affine' : model);

const grownBy = ({ left, top, right, bottom }: ReturnType<typeof boxAbout>, by: number) => ({
  left: left - by,
  top: top - by,
  right: right + by,
  bottom: bottom + by,
});
