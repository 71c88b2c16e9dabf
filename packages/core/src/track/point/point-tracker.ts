import {
  fromSquarePixels,
  identity,
  invert,
  multiply,
  toSquarePixels,
  translation,
  type Mat3,
  type Point,
} from '../../geometry/mat3.js';
import { poseMatrix, poseOf, identityPose } from '../../geometry/pose.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { TrackPicture } from '../image/analysis.js';
import { sure, type Verdict } from '../certainty/confidence.js';
import { beyondDoubt, Localiser } from './localiser.js';
import { TemplateBank } from '../appearance/template-bank.js';
import type { PointTrackerOptions } from '../options.js';
import { asExpected, isGood, rank, type Match } from './match.js';
import { Reason } from '../sample-reason.js';
import { placeIn, SampleState, type Place, type PlaceGiven, type Sample } from '../samples.js';
import type { SceneChange } from '../scene/scene-motion.js';
import { turnAt } from '../../geometry/warp-model.js';
import { prepareTemplate } from '../register/prepare-template.js';
import type { Template } from '../template/types.js';
import { priorWeight, dampingWeight } from '../register/weak-modes.js';
import { PointState } from '../predict/gating.js';

/** With less of the box believed than this share, something may be in the way. */
const inTheOpen = 0.75;
/**
 * The most that a place is worth which another template than the key's decides, as it may have drifted; or one that was
 * leapt to.
 */
const byHearsay = 0.78;
/** What a fit's confidence is worth at a place that it cannot have leapt to. */
const incredible = 0.4;
/** What is said where nothing was found. */
const nothing: Verdict = { confidence: 0, reason: Reason.missing };

/** A picture that is looked at, and how the whole of it has changed: looked into at most once, when somebody asks. */
class Moment {
  /** What was answered. */
  known: SceneChange | undefined;

  constructor(
    readonly picture: TrackPicture,
    private readonly scene: (() => SceneChange) | undefined,
  ) {}

  readonly ask = (): SceneChange | undefined => (this.known ??= this.scene?.());
}

/** Where a point is thought to be before the picture is looked at. */
interface Expectation {
  /** Where the key's box would be as the point last moved; and where it is looked for. */
  onward: Mat3;
  expected: Mat3;
  /** Whether the flow of the picture led there. */
  led: boolean;
  /** Whether a distractor lies near enough to be taken for it. */
  risky: boolean;
  /** How the whole picture moved, where the box's texture does not tell how it turns. */
  motion: Mat3 | null;
}

/** What a picture was found to show. */
interface Finding {
  match: Match | null;
  /** Where it was looked for in the end. */
  expected: Mat3;
  /** How the whole picture moved, where that guided the box. */
  guide: Mat3 | null;
  /** Whether a fixed-Hessian registration was enough, and whether the whole picture was looked at. */
  byFixedHessian: boolean;
  watched: boolean;
}

/**
 * Follows one point from frame to frame. The last frames predict where to look; the template of the
 * hand-placed key decides, so that nothing drifts. When the look changes too far from the key, newer templates
 * bridge the way, each registered to the one before; as soon as an older one fits again it decides again,
 * and what had drifted is taken back.
 */
export class PointTracker {
  private readonly bank: TemplateBank;
  private readonly point = new PointState();
  private readonly localiser: Localiser;
  /** How the key itself stands, its place apart. */
  private key: Place = identityPose;
  /**
   * Whether it went where neither its own course nor the whole picture's leads, or where a distractor may be as well for all
   * that they tell: it may be the distractor since.
   */
  private leapt = false;
  /** Where the last step thought the key's box would be before it looked. */
  private thoughtAt: Mat3 = identity;
  /** True after a step that ended at a cut to another shot. */
  cut = false;

  constructor(
    private readonly kernels: TrackKernels,
    private readonly options: PointTrackerOptions,
    /** Whether it must find its way while the point is missing; then the picture's own motion is watched. */
    private readonly goesOn = false,
    /** Whether it is one of many: then a quarter of the pixels must do for most looks. */
    sparing = false,
  ) {
    this.bank = new TemplateBank(kernels);
    this.localiser = new Localiser(kernels, options, this.bank, this.point, sparing);
  }

  get ready(): boolean {
    return this.bank.all.length > 0;
  }

  /**
   * Takes the box at a hand-placed position as the template from here on. With `aside` the box lies that far
   * from the wanted point, on something else that moves with it.
   */
  setKey(picture: TrackPicture, key: PlaceGiven, keyOffset: Point = { x: 0, y: 0 }): void {
    this.dispose();
    const template = this.cutAt(picture, { x: key.x + keyOffset.x, y: key.y + keyOffset.y });
    this.bank.begin(template);
    const { centre, aspect } = template;
    const { point } = this;
    point.offset = { x: key.x - centre.x, y: key.y - centre.y };
    point.aspect = aspect;
    this.key = { ...placeIn(key), x: 0, y: 0 };
    this.startAtKey();
    point.distractors.forget();
    this.localiser.findDistractors(picture, point.pose, centre);
  }

  /** Forgets all that came after the key, to follow from there once more, the other way. */
  returnToKey(): void {
    this.bank.dropNewerThan(this.bank.all[0]);
    this.point.predictor.forget();
    this.startAtKey();
  }

  private startAtKey(): void {
    const [banked] = this.bank.all;
    const { x, y } = banked.template.centre;
    this.point.begin(translation(x, y));
    this.point.predictor.missing = 0;
    this.localiser.begin(banked);
    this.leapt = false;
  }

  private cutAt(picture: TrackPicture, at: Point): Template {
    const { template: size, model, analysis } = this.options;
    return prepareTemplate(this.kernels, picture, at, size, model, analysis);
  }

  /** Gives the templates' memory back. */
  dispose(): void {
    this.bank.drop();
  }

  /** Goes on from a sample found earlier, with the key's template. */
  resumeFrom(sample: PlaceGiven): void {
    const { offset, aspect } = this.point;
    const here = poseMatrix({ ...placeIn(sample), x: sample.x * aspect });
    const sinceKey = fromSquarePixels(multiply(here, invert(poseMatrix(this.key))), aspect);
    this.point.begin(multiply(sinceKey, translation(-offset.x, -offset.y)));
    this.point.predictor.forget();
  }

  /** Where the last step thought the point would be before it looked. */
  get thought(): Place {
    return this.placeAt(this.thoughtAt);
  }

  /** What the point has lately moved against the whole picture, pixels a frame. */
  get relativeVelocity(): Point {
    return this.point.predictor.relativeVelocity;
  }

  /** The middle of the box on the last picture. */
  get middle(): Point {
    return this.point.middle;
  }

  /**
   * Looks for the point in the next picture in the direction of travel. `scene` tells, when asked, how the
   * picture as a whole has changed since the last one; `drift`, if known, how the flow of the picture carries
   * the box, in pixels.
   */
  step(picture: TrackPicture, scene?: () => SceneChange, drift?: Point): Sample {
    if (!this.ready) throw new Error('A point tracker needs a key before it can follow.');
    const { point } = this;
    const wasSeen = point.predictor.missing === 0;
    this.localiser.next();
    for (const { template } of this.bank.all) template.age++;
    this.cut = false;
    point.bound = false;
    const moment = new Moment(picture, scene);
    const before = this.expect(moment, drift, wasSeen);
    const finding = this.lookFor(moment, before, wasSeen);
    const { match, expected, guide, byFixedHessian } = finding;
    if (this.cut) return this.lose(picture, expected, 0, Reason.cut);
    this.thoughtAt = expected;
    const elsewhere = match?.credible ? this.mustBeElsewhere(moment, match, finding) : null;
    const { confidence, reason } = match ? this.believe(match) : nothing;
    if (!match?.credible || elsewhere) {
      const why = confidence < this.options.threshold ? reason : Reason.elsewhere;
      return this.lose(picture, elsewhere ?? expected, confidence * incredible, why);
    }
    if (confidence < this.options.threshold) return this.lose(picture, expected, confidence, reason);
    if (wasSeen) point.compareWithAll(match, moment.known?.motion ?? null);
    this.accept(match, before.onward, guide);
    if (!byFixedHessian) {
      point.parallaxHistory.seen(match.fit.parallax);
      this.localiser.linearise(picture, match, before.led);
    }
    this.keepLooks(picture, match);
    const why = confidence < sure ? reason : Reason.none;
    return this.sampleAt(point.pose, confidence, SampleState.tracked, why);
  }

  /** By its own course, by the flow, or by the whole picture where there are distractors; turned as far as that must be told. */
  private expect(moment: Moment, drift: Point | undefined, wasSeen: boolean): Expectation {
    const { point } = this;
    const { predictor, distractors, orientationPrior } = point;
    const onward = point.moved(predictor.velocity);
    const risky = wasSeen && distractors.within(2 * predictor.gateRadius);
    const led = wasSeen && !!drift && point.believes(drift, risky, moment.ask);
    let expected = led ? point.moved(drift) : onward;
    const { template } = this.localiser.active;
    const motion = template.weakModeDrift > 0 ? (moment.ask()?.motion ?? identity) : null;
    orientationPrior.watch(motion && moment.known ? moment.known : null, point.aspect);
    if (motion) expected = orientationPrior.turned(template, point.pose, expected, motion, dampingWeight);
    if (risky && !led && predictor.sceneInnovation < predictor.innovation) {
      const all = moment.ask()?.motion;
      if (all) expected = point.carried(all);
    }
    return { onward, expected, led, risky, motion };
  }

  /** A fixed-Hessian registration, a registration where it is expected, a search about that, and a search where the whole picture leads. */
  private lookFor(moment: Moment, before: Expectation, wasSeen: boolean): Finding {
    const { point, localiser } = this;
    const { picture } = moment;
    const { led, risky, motion } = before;
    let { expected } = before;
    const byFixedHessian = wasSeen ? localiser.fixed(picture, expected, led) : null;
    const fixed = byFixedHessian?.certain ? byFixedHessian.match : null;
    // A fixed-Hessian registration ends where it began in what is hardly told; a full registration finds the way from where it must have been.
    const { template } = localiser.active;
    const guide = !fixed && template.weakModes.length > 0 ? (moment.ask()?.motion ?? identity) : motion;
    if (!fixed && guide)
      expected = point.orientationPrior.turned(template, point.pose, expected, guide, priorWeight);
    const near = wasSeen && !fixed ? localiser.registerNear(picture, expected, led, byFixedHessian) : null;
    let match = fixed ?? (near && localiser.takeNear(picture, near, expected, led));
    const searched = near && !match ? localiser.find(picture, expected, near) : null;
    if (searched && isGood(searched) && searched.confidence >= beyondDoubt) match = searched;
    // Even where the point is found at once, the picture's own motion is looked at now and then, and whenever something
    // has changed: if it is about to be covered, what it moves against the picture must be known by then.
    const watching = this.goesOn && (!fixed || localiser.isWatchful);
    const change = !match || watching || risky ? moment.ask() : undefined;
    const finding = { match, expected, guide, byFixedHessian: fixed !== null, watched: change !== undefined };
    if (match) return finding;
    this.cut = change?.cut ?? false;
    if (this.cut) return finding;
    const lost = near ? { match: searched } : null;
    return { ...finding, ...this.searchWithAll(picture, change?.motion ?? null, expected, wasSeen, lost) };
  }

  /**
   * Looks for what was not found at once. What is missing goes with the picture; what was seen just now goes on as it went,
   * unless the camera was knocked, or where everything goes has told more of it lately: then it went where everything
   * went. `searched` is what a search about where it is expected has found, if there was one.
   */
  private searchWithAll(
    picture: TrackPicture,
    motion: Mat3 | null,
    onward: Mat3,
    wasSeen: boolean,
    searched: { match: Match | null } | null,
  ): { match: Match | null; expected: Mat3 } {
    const { point, localiser } = this;
    const { predictor } = point;
    const withAll = motion ? point.carried(motion) : null;
    let expected = withAll && !wasSeen ? withAll : onward;
    point.bound = !!withAll && !wasSeen && predictor.followsScene;
    let match = searched
      ? searched.match
      : localiser.find(picture, expected, localiser.registerNear(picture, expected));
    const usable = isGood(match) && match.confidence >= this.options.threshold;
    if (withAll && wasSeen && !usable) {
      const other = localiser.find(picture, withAll, localiser.registerNear(picture, withAll));
      if (other && (!match || rank(other) > rank(match))) match = other;
      const leads = predictor.sceneInnovation < predictor.innovation;
      if (match === other || !match?.credible || leads) expected = withAll;
    }
    return { match, expected };
  }

  /**
   * Where the point must be in place of a find that is not it: what has always gone with the picture has not left it now, nor
   * has something half covered changed its way. Null where the find may be the point; it may have leapt there.
   */
  private mustBeElsewhere(moment: Moment, match: Match, { expected, watched }: Finding): Mat3 | null {
    const { point } = this;
    const { predictor } = point;
    const leaps = point.isLeap(match.pose, expected, moment.ask);
    const bound = predictor.followsScene || (predictor.isSteady && match.fit.share < inTheOpen);
    const all = bound && (leaps || watched) ? moment.ask() : null;
    if (all?.motion && !point.goesWith(all, match.pose, predictor.sceneGateRadius))
      return point.carried(all.motion);
    if (leaps || match.ambiguity < 1) this.leapt = true;
    return null;
  }

  private keepLooks(picture: TrackPicture, match: Match): void {
    if (this.bank.hasReturned(match)) this.bank.dropNewerThan(match.banked);
    else if (this.localiser.newest) this.bank.update(this.localiser.newest, (at) => this.cutAt(picture, at));
  }

  /** How sure a find is when it is known how it came about. */
  private believe({ confidence, reason, banked }: Match): Verdict {
    const hearsay = this.leapt ? Reason.leapt : banked === this.bank.all[0] ? Reason.none : Reason.adapted;
    // Having leapt it may be on the distractor that is near.
    if (hearsay === Reason.leapt && reason === Reason.double) return { confidence, reason: hearsay };
    if (hearsay === Reason.none || confidence <= byHearsay) return { confidence, reason };
    return { confidence: byHearsay, reason: hearsay };
  }

  private lose({ width, height }: TrackPicture, expected: Mat3, confidence: number, reason: Reason): Sample {
    const { point } = this;
    point.predictor.lost();
    this.localiser.startle();
    point.orientationPrior.goOn(point.pose, expected);
    point.pose = expected;
    const { x, y } = point.middle;
    const inside = x >= 0 && y >= 0 && x < width && y < height;
    const why = inside || this.cut ? reason : Reason.outside;
    return this.sampleAt(expected, confidence, SampleState.lost, why);
  }

  /** `guide` is how the whole picture has moved, if that was asked. */
  private accept({ banked, fit, pose, likeness: alike }: Match, onward: Mat3, guide: Mat3 | null): void {
    const { point, localiser } = this;
    const { pose: last, orientationPrior } = point;
    const [before, wanted, here] = [last, onward, pose].map((m) => point.pointAt(m));
    point.predictor.seen(here, wanted, before);
    localiser.active = banked;
    point.pose = pose;
    if (guide) orientationPrior.found(banked.template, pose, guide);
    else orientationPrior.goOn(last, pose);
    // What covers a part must not pass for noise from then on.
    const known = banked.exposure?.residual ?? fit.residual;
    const residual = alike >= asExpected ? fit.residual : Math.min(fit.residual, known * 1.05);
    banked.exposure = { gain: fit.gain, bias: fit.bias, residual };
  }

  /** Where the point is when the key's box is at a pose. */
  private placeAt(pose: Mat3): Place {
    const { key } = this;
    const { offset, aspect } = this.point;
    const { x, y } = this.point.pointAt(pose);
    const sinceKey = toSquarePixels(multiply(pose, translation(offset.x, offset.y)), aspect);
    const place = poseOf(multiply(sinceKey, poseMatrix(key)));
    // Turned farther than half a turn by the key, it goes on from there.
    const turned = key.rotation + turnAt(pose, offset.x, offset.y, aspect).rotation;
    place.rotation += 2 * Math.PI * Math.round((turned - place.rotation) / (2 * Math.PI));
    place.x = x;
    place.y = y;
    return place;
  }

  private sampleAt(pose: Mat3, confidence: number, state: SampleState, reason: Reason): Sample {
    const { x, y, rotation, scale, stretch, shear, tiltX, tiltY } = this.placeAt(pose);
    return { x, y, confidence, rotation, scale, stretch, shear, tiltX, tiltY, state, reason };
  }
}
