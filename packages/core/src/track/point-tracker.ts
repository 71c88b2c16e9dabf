import { identity, translation, type Mat3, type Point } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import { plainAnalysis, type Analysis, type TrackPicture } from './analysis.js';
import type { Place } from './curve.js';
import { sure, type Verdict } from './confidence.js';
import { beyondDoubt, Finder } from './finder.js';
import { Looks } from './looks.js';
import { asExpected, isGood, rank, type Match } from './match.js';
import { Reason } from './reason.js';
import { SampleState, type Sample } from './samples.js';
import type { SceneChange } from './scene-watch.js';
import { turnAt, type Shape } from './shape.js';
import { cutTemplate, type Template } from './template.js';
import { guided, lacking } from './untold.js';
import { Whereabouts } from './whereabouts.js';

export interface Size {
  width: number;
  height: number;
}

export interface PointTrackerOptions {
  /** The box that is looked for, full size in clip pixels. */
  template: Size;
  /** The box that is looked in, full size; the template stays inside it. */
  search: Size;
  shape: Shape;
  analysis: Analysis;
  /** Below this confidence the sample is `lost`. */
  threshold: number;
}

export const defaultPointOptions: PointTrackerOptions = {
  template: { width: 41, height: 41 },
  search: { width: 161, height: 161 },
  shape: 'similarity',
  analysis: plainAnalysis,
  threshold: 0.5,
};

/** With less of the box believed than this share, something may be in the way. */
const inTheOpen = 0.75;
/**
 * The most that a place is worth which another look than the key's decides, as it may have drifted; or one that was
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
  /** Whether a double lies near enough to be taken for it. */
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
  /** Whether a glance was enough, and whether the whole picture was looked at. */
  glanced: boolean;
  watched: boolean;
}

/**
 * Follows one point from frame to frame. The last frames predict where to look; the template of the
 * hand-placed key decides, so that nothing drifts. When the look changes too far from the key, newer looks
 * bridge the way, each registered to the one before; as soon as an older one fits again it decides again,
 * and what had drifted is taken back.
 */
export class PointTracker {
  private readonly looks: Looks;
  private readonly whereabouts = new Whereabouts();
  private readonly finder: Finder;
  private keyRotation = 0;
  private keyScale = 1;
  /**
   * Whether it went where neither its own course nor the whole picture's leads, or where a double may be as well for all
   * that they tell: it may be the double since.
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
    this.looks = new Looks(kernels);
    this.finder = new Finder(kernels, options, this.looks, this.whereabouts, sparing);
  }

  get ready(): boolean {
    return this.looks.all.length > 0;
  }

  /**
   * Takes the box at a hand-placed position as the template from here on. With `aside` the box lies that far
   * from the wanted point, on something else that moves with it.
   */
  setKey(picture: TrackPicture, key: Place, aside: Point = { x: 0, y: 0 }): void {
    this.dispose();
    const template = this.cutAt(picture, { x: key.x + aside.x, y: key.y + aside.y });
    this.looks.begin(template);
    const { centre, aspect } = template;
    const { whereabouts } = this;
    whereabouts.offset = { x: key.x - centre.x, y: key.y - centre.y };
    whereabouts.aspect = aspect;
    this.keyRotation = key.rotation;
    this.keyScale = key.scale;
    this.startAtKey();
    whereabouts.lookalikes.forget();
    this.finder.seekLookalikes(picture, whereabouts.pose, centre);
  }

  /** Forgets all that came after the key, to follow from there once more, the other way. */
  returnToKey(): void {
    this.looks.dropNewerThan(this.looks.all[0]);
    this.whereabouts.course.forget();
    this.startAtKey();
  }

  private startAtKey(): void {
    const [look] = this.looks.all;
    const { x, y } = look.template.centre;
    this.whereabouts.begin(translation(x, y));
    this.whereabouts.course.missing = 0;
    this.finder.begin(look);
    this.leapt = false;
  }

  private cutAt(picture: TrackPicture, at: Point): Template {
    const { template: size, shape, analysis } = this.options;
    return cutTemplate(this.kernels, picture, at, size, shape, analysis);
  }

  /** Gives the templates' memory back. */
  dispose(): void {
    this.looks.drop();
  }

  /** Goes on from a sample found earlier, with the key's template. */
  resumeFrom(sample: Place): void {
    const angle = sample.rotation - this.keyRotation;
    const size = sample.scale / this.keyScale;
    const [a, b] = [size * Math.cos(angle), size * Math.sin(angle)];
    const { x, y } = this.whereabouts.offset;
    this.whereabouts.begin([a, -b, sample.x - a * x + b * y, b, a, sample.y - b * x - a * y, 0, 0, 1]);
    this.whereabouts.course.forget();
  }

  /** Where the last step thought the point would be before it looked. */
  get thought(): Place {
    return this.placeAt(this.thoughtAt);
  }

  /** What the point has lately moved against the whole picture, pixels a frame. */
  get own(): Point {
    return this.whereabouts.course.own;
  }

  /** The middle of the box on the last picture. */
  get middle(): Point {
    return this.whereabouts.middle;
  }

  /**
   * Looks for the point in the next picture in the direction of travel. `scene` tells, when asked, how the
   * picture as a whole has changed since the last one; `drift`, if known, how the flow of the picture carries
   * the box, in pixels.
   */
  step(picture: TrackPicture, scene?: () => SceneChange, drift?: Point): Sample {
    if (!this.ready) throw new Error('A point tracker needs a key before it can follow.');
    const { whereabouts } = this;
    const wasSeen = whereabouts.course.missing === 0;
    this.finder.next();
    for (const { template } of this.looks.all) template.age++;
    this.cut = false;
    whereabouts.bound = false;
    const moment = new Moment(picture, scene);
    const before = this.expect(moment, drift, wasSeen);
    const finding = this.lookFor(moment, before, wasSeen);
    const { match, expected, guide, glanced } = finding;
    if (this.cut) return this.lose(picture, expected, 0, Reason.cut);
    this.thoughtAt = expected;
    const elsewhere = match?.credible ? this.mustBeElsewhere(moment, match, finding) : null;
    const { confidence, reason } = match ? this.believe(match) : nothing;
    if (!match?.credible || elsewhere) {
      const why = confidence < this.options.threshold ? reason : Reason.elsewhere;
      return this.lose(picture, elsewhere ?? expected, confidence * incredible, why);
    }
    if (confidence < this.options.threshold) return this.lose(picture, expected, confidence, reason);
    if (wasSeen) whereabouts.compareWithAll(match, moment.known?.motion ?? null);
    this.accept(match, before.onward, guide);
    if (!glanced) {
      whereabouts.cohesion.seen(match.fit.parted);
      this.finder.takeStance(picture, match, before.led);
    }
    this.keepLooks(picture, match);
    const why = confidence < sure ? reason : Reason.none;
    return this.sampleAt(whereabouts.pose, confidence, SampleState.tracked, why);
  }

  /** By its own course, by the flow, or by the whole picture where there are doubles; turned as far as that must be told. */
  private expect(moment: Moment, drift: Point | undefined, wasSeen: boolean): Expectation {
    const { whereabouts } = this;
    const { course, lookalikes, upright } = whereabouts;
    const onward = whereabouts.moved(course.velocity);
    const risky = wasSeen && lookalikes.within(2 * course.allowance);
    const led = wasSeen && !!drift && whereabouts.believes(drift, risky, moment.ask);
    let expected = led ? whereabouts.moved(drift) : onward;
    const { template } = this.finder.active;
    const motion = template.lever > 0 ? (moment.ask()?.motion ?? identity) : null;
    upright.watch(motion && moment.known ? moment.known : null, whereabouts.aspect);
    if (motion) expected = upright.turned(template, whereabouts.pose, expected, motion, lacking);
    if (risky && !led && course.straying < course.surprise) {
      const all = moment.ask()?.motion;
      if (all) expected = whereabouts.carried(all);
    }
    return { onward, expected, led, risky, motion };
  }

  /** A glance, a registration where it is expected, a search about that, and a search where the whole picture leads. */
  private lookFor(moment: Moment, before: Expectation, wasSeen: boolean): Finding {
    const { whereabouts, finder } = this;
    const { picture } = moment;
    const { led, risky, motion } = before;
    let { expected } = before;
    const glanced = wasSeen ? finder.glance(picture, expected, led) : null;
    const glance = glanced?.certain ? glanced.match : null;
    // A glance ends where it began in what is hardly told; a thorough look finds the way from where it must have been.
    const { template } = finder.active;
    const guide = !glance && template.untold.length > 0 ? (moment.ask()?.motion ?? identity) : motion;
    if (!glance && guide)
      expected = whereabouts.upright.turned(template, whereabouts.pose, expected, guide, guided);
    const near = wasSeen && !glance ? finder.lookNear(picture, expected, led, glanced) : null;
    let match = glance ?? (near && finder.takeNear(picture, near, expected, led));
    const searched = near && !match ? finder.find(picture, expected, near) : null;
    if (searched && isGood(searched) && searched.confidence >= beyondDoubt) match = searched;
    // Even where the point is found at once, the picture's own motion is looked at now and then, and whenever something
    // has changed: if it is about to be covered, what it moves against the picture must be known by then.
    const watching = this.goesOn && (!glance || finder.isWatchful);
    const change = !match || watching || risky ? moment.ask() : undefined;
    const finding = { match, expected, guide, glanced: glance !== null, watched: change !== undefined };
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
    const { whereabouts, finder } = this;
    const { course } = whereabouts;
    const withAll = motion ? whereabouts.carried(motion) : null;
    let expected = withAll && !wasSeen ? withAll : onward;
    whereabouts.bound = !!withAll && !wasSeen && course.goesAlong;
    let match = searched
      ? searched.match
      : finder.find(picture, expected, finder.lookNear(picture, expected));
    const usable = isGood(match) && match.confidence >= this.options.threshold;
    if (withAll && wasSeen && !usable) {
      const other = finder.find(picture, withAll, finder.lookNear(picture, withAll));
      if (other && (!match || rank(other) > rank(match))) match = other;
      const leads = course.straying < course.surprise;
      if (match === other || !match?.credible || leads) expected = withAll;
    }
    return { match, expected };
  }

  /**
   * Where the point must be in place of a find that is not it: what has always gone with the picture has not left it now, nor
   * has something half covered changed its way. Null where the find may be the point; it may have leapt there.
   */
  private mustBeElsewhere(moment: Moment, match: Match, { expected, watched }: Finding): Mat3 | null {
    const { whereabouts } = this;
    const { course } = whereabouts;
    const leaps = whereabouts.isLeap(match.pose, expected, moment.ask);
    const bound = course.goesAlong || (course.isSteady && match.fit.share < inTheOpen);
    const all = bound && (leaps || watched) ? moment.ask() : null;
    if (all?.motion && !whereabouts.goesWith(all, match.pose, course.allowanceWithAll))
      return whereabouts.carried(all.motion);
    if (leaps || match.doubt < 1) this.leapt = true;
    return null;
  }

  private keepLooks(picture: TrackPicture, match: Match): void {
    if (this.looks.hasReturned(match)) this.looks.dropNewerThan(match.look);
    else if (this.finder.newest) this.looks.keepUp(this.finder.newest, (at) => this.cutAt(picture, at));
  }

  /** How sure a find is when it is known how it came about. */
  private believe({ confidence, reason, look }: Match): Verdict {
    const hearsay = this.leapt ? Reason.leapt : look === this.looks.all[0] ? Reason.none : Reason.adapted;
    // Having leapt it may be on the double that is near.
    if (hearsay === Reason.leapt && reason === Reason.double) return { confidence, reason: hearsay };
    if (hearsay === Reason.none || confidence <= byHearsay) return { confidence, reason };
    return { confidence: byHearsay, reason: hearsay };
  }

  private lose({ width, height }: TrackPicture, expected: Mat3, confidence: number, reason: Reason): Sample {
    const { whereabouts } = this;
    whereabouts.course.lost();
    this.finder.startle();
    whereabouts.upright.goOn(whereabouts.pose, expected);
    whereabouts.pose = expected;
    const { x, y } = whereabouts.middle;
    const inside = x >= 0 && y >= 0 && x < width && y < height;
    const why = inside || this.cut ? reason : Reason.outside;
    return this.sampleAt(expected, confidence, SampleState.lost, why);
  }

  /** `guide` is how the whole picture has moved, if that was asked. */
  private accept({ look, fit, pose, likeness: alike }: Match, onward: Mat3, guide: Mat3 | null): void {
    const { whereabouts, finder } = this;
    const { pose: last, upright } = whereabouts;
    const [before, wanted, here] = [last, onward, pose].map((m) => whereabouts.pointAt(m));
    whereabouts.course.seen(here, wanted, before);
    finder.active = look;
    whereabouts.pose = pose;
    if (guide) upright.found(look.template, pose, guide);
    else upright.goOn(last, pose);
    // What covers a part must not pass for noise from then on.
    const known = look.exposure?.residual ?? fit.residual;
    const residual = alike >= asExpected ? fit.residual : Math.min(fit.residual, known * 1.05);
    look.exposure = { gain: fit.gain, bias: fit.bias, residual };
  }

  /** Where the point is when the key's box is at a pose. */
  private placeAt(pose: Mat3): Place {
    const { offset, aspect } = this.whereabouts;
    const { x, y } = this.whereabouts.pointAt(pose);
    const { rotation, scale } = turnAt(pose, offset.x, offset.y, aspect);
    return { x, y, rotation: this.keyRotation + rotation, scale: this.keyScale * scale };
  }

  private sampleAt(pose: Mat3, confidence: number, state: SampleState, reason: Reason): Sample {
    const { x, y, rotation, scale } = this.placeAt(pose);
    return { x, y, confidence, rotation, scale, state, reason };
  }
}
