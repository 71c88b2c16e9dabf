import { apply, identity, multiply, translation, type Mat3, type Point } from '../../geometry/mat3.js';
import { ParallaxHistory } from '../certainty/parallax.js';
import { likeness, sure, verdictOn } from '../certainty/confidence.js';
import { Predictor } from './predictor.js';
import type { BankedTemplate } from '../appearance/banked-template.js';
import { Distractors } from '../search/distractors.js';
import {
  asExpected,
  matchOf,
  recognised,
  recognisedShare,
  type Match,
  type Sighting,
} from '../point/match.js';
import { Reason } from '../sample-reason.js';
import type { Fit, CoarseFit } from '../register/registration.js';
import type { SceneChange } from '../scene/scene-motion.js';
import { turnAt, type WarpModel } from '../../geometry/warp-model.js';
import { OrientationPrior } from './orientation-prior.js';

/** So much liker than any distractor it must be the point itself. */
const itself = 0.04;
/**
 * What a texture does not tell may have turned by so much (radians), or grown by this share, where the point goes its own
 * way; and by so much where it goes along with the picture.
 */
const turning = 0.03;
const turningAlong = 0.008;
/** A point is doubtful for that, by so many pixels at most, but not lost. */
const mostUnnoticed = 0.25;

/** What is known of where a point is and how it moves, and what that lets one believe of where it seems to be. */
export class PointState {
  readonly predictor = new Predictor();
  readonly distractors = new Distractors();
  readonly parallaxHistory = new ParallaxHistory();
  /** How it has turned and grown as far as its texture told, and with the whole picture where that did not tell. */
  readonly orientationPrior = new OrientationPrior();
  /** From the key's box (pixels from its centre) to the last picture. */
  pose: Mat3 = identity;
  /** The wanted point in the key's box. */
  offset: Point = { x: 0, y: 0 };
  /** A pixel's width over its height. */
  aspect = 1;
  /** While it is missing: whether it must be where the whole picture leads it. */
  bound = false;

  /** It is at a pose that says nothing of how it came there. */
  begin(pose: Mat3): void {
    this.pose = pose;
    this.orientationPrior.begin(pose);
    this.parallaxHistory.begin();
  }

  /** The middle of the box on the last picture. */
  get middle(): Point {
    const { pose: m } = this;
    return { x: m[2] / m[8], y: m[5] / m[8] };
  }

  /** Where the wanted point is when the key's box is at a pose. */
  pointAt(pose: Mat3): Point {
    return apply(pose, this.offset.x, this.offset.y);
  }

  /** Where the box is when it has shifted by so much. */
  moved({ x, y }: Point): Mat3 {
    return multiply(translation(x, y), this.pose);
  }

  /** Where the point goes with the whole picture, and by what it has been moving against it. */
  carried(motion: Mat3): Mat3 {
    const { x, y } = this.predictor.relativeVelocity;
    return multiply(translation(x, y), multiply(motion, this.pose));
  }

  /**
   * Whether flow is a guide: where it says what the point's own course says, or the whole picture's. Near distractors it may
   * have gone to one of them: then the whole picture must say the same, and nearer to it than a distractor is.
   */
  believes(drift: Point, risky: boolean, scene: () => SceneChange | undefined): boolean {
    const { velocity, gateRadius } = this.predictor;
    if (!risky && Math.hypot(drift.x - velocity.x, drift.y - velocity.y) <= gateRadius) return true;
    const motion = scene()?.motion;
    if (!motion) return false;
    const { x, y } = this.middle;
    const all = apply(this.carried(motion), 0, 0);
    const off = { x: x + drift.x - all.x, y: y + drift.y - all.y };
    return this.isNear(off) && !(risky && this.distractors.ambiguity(off) < 1);
  }

  /** Takes note of where a find has the point, against where it would have gone with the whole picture. */
  compareWithAll({ pose, fit }: Match, motion: Mat3 | null): void {
    // What covers half of the box may have dragged it along.
    if (!motion || fit.share < recognisedShare) return;
    this.predictor.compare(this.pointAt(pose), this.pointAt(multiply(motion, this.pose)));
  }

  /** What is made of a template that fits somewhere, when it was expected elsewhere. */
  sight(banked: BankedTemplate, model: WarpModel, fit: CoarseFit, expected: Mat3): Sighting {
    const pose = multiply(fit.matrix, banked.fromKey);
    const leap = this.leap(expected, pose);
    const best = Math.max(banked.best, fit.score);
    const alike = likeness(fit, best);
    const ambiguity = this.distractors.ambiguity(leap);
    const known = this.predictor.missing === 0 || (alike >= recognised && fit.share >= recognisedShare);
    const credible = known && this.isCredible(leap, alike);
    return { banked, model, fit, pose, likeness: alike, ambiguity, credible };
  }

  /** The same of a template that was registered in all its pixels. */
  judge(banked: BankedTemplate, model: WarpModel, fit: Fit, expected: Mat3): Match {
    const seen = this.sight(banked, model, fit, expected);
    const { template } = banked;
    // Where all it could do was shift, nothing tells how it has turned.
    const unnoticed =
      model !== template.model
        ? template.centroidOffset * turning
        : template.weakModeDrift * this.turningUnnoticed;
    const error = Math.hypot(fit.error, Math.min(unnoticed, mostUnnoticed));
    const apart = this.parallaxHistory.parallaxWith(fit.parallax);
    const { confidence, reason } = verdictOn(fit, Math.max(banked.best, fit.score), error, apart);
    const alone = seen.ambiguity === 1 || confidence < sure;
    return matchOf(seen, fit, confidence * seen.ambiguity, alone ? reason : Reason.double);
  }

  /** How far the point may have turned, radians, where its texture does not tell. */
  private get turningUnnoticed(): number {
    return Math.max(
      this.predictor.leavesScene ? turning : turningAlong,
      this.orientationPrior.unobservedTurn,
    );
  }

  /** How far a pose has the point from where it was expected. */
  private leap(expected: Mat3, pose: Mat3): Point {
    const [from, to] = [this.pointAt(expected), this.pointAt(pose)];
    return { x: to.x - from.x, y: to.y - from.y };
  }

  /** Whether neither where it was expected nor the whole picture's motion explains how the point came there. */
  isLeap(pose: Mat3, expected: Mat3, scene: () => SceneChange | undefined): boolean {
    if (this.isNear(this.leap(expected, pose))) return false;
    const all = scene();
    return !all || !this.goesWith(all, pose, this.reach);
  }

  /** Whether a pose is no farther, in pixels, from where the whole picture, or another great part of it, leads the point. */
  goesWith({ motion, other }: SceneChange, pose: Mat3, reach: number): boolean {
    return [motion, other].some((all) => {
      if (!all) return false;
      const { x, y } = this.leap(this.carried(all), pose);
      return Math.hypot(x, y) <= reach;
    });
  }

  /** Farther than this from where it is expected, in pixels, a find is a leap. */
  private get reach(): number {
    return this.bound ? this.predictor.sceneGateRadius : this.predictor.gateRadius;
  }

  private isNear({ x, y }: Point): boolean {
    return Math.hypot(x, y) <= this.reach;
  }

  /**
   * Whether the point may have gone there: not far from where it was expected, or more like it than any other place. What
   * has always gone with the picture does not come back elsewhere.
   */
  private isCredible(leap: Point, alike: number): boolean {
    if (this.isNear(leap)) return true;
    return !this.bound && alike >= asExpected && alike >= this.distractors.strongest + itself;
  }

  /** From one frame to the next nothing turns or grows by more than a little. */
  isPlausible(next: Mat3): boolean {
    const before = turnAt(this.pose, 0, 0, this.aspect);
    const after = turnAt(next, 0, 0, this.aspect);
    const ratio = Math.abs(Math.log(after.scale / before.scale));
    const angle = Math.abs(after.rotation - before.rotation);
    const slack = 1 + 0.3 * this.predictor.missing;
    return ratio < 0.08 * slack && Math.min(angle, 2 * Math.PI - angle) < 0.15 * slack;
  }
}
