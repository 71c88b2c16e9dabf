import { apply, identity, multiply, translation, type Mat3, type Point } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import { plainAnalysis, type Analysis, type TrackPicture } from './analysis.js';
import type { Area } from './area.js';
import { confidenceOf, likeness } from './confidence.js';
import { Course } from './course.js';
import { Lookalikes } from './lookalikes.js';
import type { Place } from './curve.js';
import { glanceAt, takeStance, type Stance } from './glance.js';
import { cutAround, ownPose, placesOf, placesOfHalves, type Look, type SearchArea } from './look.js';
import { Looks } from './looks.js';
import {
  asExpected,
  isAsBefore,
  isAt,
  isGood,
  middleOf,
  rank,
  recognised,
  recognisedShare,
  type Match,
  type Sighting,
} from './match.js';
import { glimpse, refine, seenUnder, type Fit, type Glimpse, type RefineOptions } from './refine.js';
import { SampleState, type Sample } from './samples.js';
import type { SceneChange } from './scene-watch.js';
import type { Peak } from './search.js';
import { turnAt, type Shape } from './shape.js';
import { cutTemplate, learnSlopes, type Template } from './template.js';
import { guided, lacking } from './untold.js';
import { Upright } from './upright.js';

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

/** How much correlation a peak loses for lying a whole search box away from where it was expected. */
const farPenalty = 0.08;
/** An older look is preferred to a newer one that fits at most so much better. */
const loyalty = 0.05;
/** Confidence at which what the lattice led to needs no second opinion. */
const beyondDoubt = 0.9;
/** Less alike than this, a part of the box may be covered. */
const inFull = 0.82;
/** With less of the box believed than this share, something may be in the way. */
const inTheOpen = 0.75;
/** Halves are looked for where the point may be, and so many pixels around: it may have been lost for a while. */
const aroundHalves = 12;
/** So many frames the halves are left alone when they had nothing better to offer. */
const restOfHalves = 4;
/** Where the flow leads, what a search has confirmed holds for so many frames. */
const confirmedFor = 25;
/** After a thorough look so many frames less will do. */
const glances = 8;
const ledGlances = 24;
/** So much liker than any lookalike it must be the point itself. */
const itself = 0.04;
/** Even where all is well, every so many frames the box is searched for places that look alike: less often where flow leads. */
const watchInterval = 8;
const ledWatchInterval = 24;
/**
 * The most that a place is worth which another look than the key's decides, as it may have drifted; or one that was
 * leapt to.
 */
const byHearsay = 0.78;
/**
 * What a texture does not tell may have turned by so much (radians), or grown by this share, where the point goes its own
 * way; and by so much where it goes along with the picture.
 */
const turning = 0.03;
const turningAlong = 0.008;
/** A point is doubtful for that, by so many pixels at most, but not lost. */
const mostUnnoticed = 0.25;
/** What a fit's confidence is worth at a place that it cannot have leapt to. */
const incredible = 0.4;

/**
 * Follows one point from frame to frame. The last frames predict where to look; the template of the
 * hand-placed key decides, so that nothing drifts. When the look changes too far from the key, newer looks
 * bridge the way, each registered to the one before; as soon as an older one fits again it decides again,
 * and what had drifted is taken back.
 */
export class PointTracker {
  private readonly looks: Looks;
  /** The one that decided last. */
  private active!: Look;
  /** From the key's box (pixels from its centre) to the last picture. */
  private current: Mat3 = identity;
  /** The wanted point in the key's box. */
  private offset: Point = { x: 0, y: 0 };
  private keyRotation = 0;
  private keyScale = 1;
  private readonly course = new Course();
  private frames = 0;
  private halvesAgain = 0;
  /**
   * Whether it went where neither its own course nor the whole picture's leads, or where a double may be as well for all
   * that they tell: it may be the double since.
   */
  private leapt = false;
  /** The last time that a search led to where the point was found without it, and how that fitted. */
  private confirmed: { frame: number; likeness: number; share: number } | null = null;
  /** What was found the last time that nothing was taken for granted. */
  private thorough: { stance: Stance; frame: number } | null = null;
  /** How the newest look fitted last. */
  private newest: Match | null = null;
  /** How it has turned and grown as far as its texture told, and with the whole picture where that did not tell. */
  private readonly upright = new Upright();
  /** Where the last step thought the key's box would be before it looked. */
  private thoughtAt: Mat3 = identity;
  /** While it is missing: whether it must be where the whole picture leads it. */
  private bound = false;
  /** True after a step that ended at a cut to another shot. */
  cut = false;
  private readonly lookalikes = new Lookalikes();

  constructor(
    private readonly kernels: TrackKernels,
    private readonly options: PointTrackerOptions,
    /** Whether it must find its way while the point is missing; then the picture's own motion is watched. */
    private readonly goesOn = false,
  ) {
    this.looks = new Looks(kernels);
  }

  /** A pixel's width over its height. */
  private get aspect(): number {
    return this.looks.all[0]?.template.aspect ?? 1;
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
    this.active = this.looks.begin(template);
    this.offset = { x: key.x - template.centre.x, y: key.y - template.centre.y };
    this.keyRotation = key.rotation;
    this.keyScale = key.scale;
    this.startAtKey();
    this.lookalikes.forget();
    const area = this.around(picture, this.current);
    if (area)
      this.lookalikes.remember(placesOf(this.kernels, this.active, area, this.current), template.centre);
  }

  /** Forgets all that came after the key, to follow from there once more, the other way. */
  returnToKey(): void {
    [this.active] = this.looks.all;
    this.looks.dropNewerThan(this.active);
    this.course.forget();
    this.startAtKey();
  }

  private startAtKey(): void {
    const { centre } = this.active.template;
    this.current = translation(centre.x, centre.y);
    this.upright.begin(this.current);
    this.course.missing = 0;
    this.frames = 0;
    this.halvesAgain = 0;
    this.leapt = false;
    this.confirmed = null;
    this.thorough = null;
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
    const { x, y } = this.offset;
    this.current = [a, -b, sample.x - a * x + b * y, b, a, sample.y - b * x - a * y, 0, 0, 1];
    this.upright.begin(this.current);
    this.course.forget();
  }

  /** Where the last step thought the point would be before it looked. */
  get thought(): Place {
    return this.placeAt(this.thoughtAt);
  }

  /** What the point has lately moved against the whole picture, pixels a frame. */
  get own(): Point {
    return this.course.own;
  }

  /** The middle of the box on the last picture. */
  get middle(): Point {
    const { current: m } = this;
    return { x: m[2] / m[8], y: m[5] / m[8] };
  }

  /**
   * Looks for the point in the next picture in the direction of travel. `scene` tells, when asked, how the
   * picture as a whole has changed since the last one; `drift`, if known, how the flow of the picture carries
   * the box, in pixels.
   */
  step(picture: TrackPicture, scene?: () => SceneChange, drift?: Point): Sample {
    if (!this.ready) throw new Error('A point tracker needs a key before it can follow.');
    const { course, upright, current } = this;
    const wasSeen = course.missing === 0;
    this.frames++;
    for (const { template } of this.looks.all) template.age++;
    this.cut = false;
    this.bound = false;
    const onward = this.moved(course.velocity);
    let asked: SceneChange | undefined;
    const ask = (): SceneChange | undefined => (asked ??= scene?.());
    const risky = wasSeen && this.lookalikes.within(2 * course.allowance);
    const led = wasSeen && !!drift && this.believes(drift, risky, ask);
    let expected = led ? this.moved(drift) : onward;
    const { template } = this.active;
    const motion = template.lever > 0 ? (ask()?.motion ?? identity) : null;
    upright.watch(motion && asked ? asked : null, this.aspect);
    if (motion) expected = upright.turned(template, current, expected, motion, lacking);
    if (risky && !led && course.straying < course.surprise) {
      const all = ask()?.motion;
      if (all) expected = this.carried(all);
    }
    const glanced = wasSeen ? this.glance(picture, expected, led) : null;
    const glance = glanced?.certain ? glanced.match : null;
    // A glance ends where it began in what is hardly told; a thorough look finds the way from where it must have been.
    const guide = !glance && template.untold.length > 0 ? (ask()?.motion ?? identity) : motion;
    if (!glance && guide) expected = upright.turned(template, current, expected, guide, guided);
    const near = wasSeen && !glance ? this.lookNear(picture, expected, led, glanced) : null;
    let match = glance ?? (near && this.takeNear(picture, near, expected, led));
    const searched = near && !match ? this.find(picture, expected, near) : null;
    if (searched && isGood(searched) && searched.confidence >= beyondDoubt) match = searched;
    // Even where the point is found at once, the picture's own motion is looked at now and then, and whenever something
    // has changed: if it is about to be covered, what it moves against the picture must be known by then.
    const watching = this.goesOn && (!glance || this.frames % watchInterval === watchInterval / 2);
    const change = !match || watching || risky ? ask() : undefined;
    if (!match) {
      this.cut = change?.cut ?? false;
      if (this.cut) return this.lose(expected, 0);
      // What is missing goes with the picture; what was seen just now goes on as it went, unless the camera
      // was knocked, or where everything goes has told more of it lately: then it went where everything went.
      const withAll = change?.motion ? this.carried(change.motion) : null;
      if (withAll && !wasSeen) expected = withAll;
      this.bound = !!withAll && !wasSeen && course.goesAlong;
      match = near ? searched : this.find(picture, expected, this.lookNear(picture, expected));
      const usable = isGood(match) && match.confidence >= this.options.threshold;
      if (withAll && wasSeen && !usable) {
        const other = this.find(picture, withAll, this.lookNear(picture, withAll));
        if (other && (!match || rank(other) > rank(match))) match = other;
        const leads = course.straying < course.surprise;
        if (match === other || !match?.credible || leads) expected = withAll;
      }
    }
    this.thoughtAt = expected;
    if (match?.credible) {
      const leaps = this.isLeap(match.pose, expected, ask);
      // What has always gone with the picture has not left it now, nor has something half covered changed its way: it is
      // something else that is like it.
      const bound = course.goesAlong || (course.isSteady && match.fit.share < inTheOpen);
      const all = bound && (leaps || change) ? ask() : null;
      if (all?.motion && !this.goesWith(all, match.pose, course.allowanceWithAll))
        return this.lose(this.carried(all.motion), match.confidence * incredible);
      if (leaps || match.doubt < 1) this.leapt = true;
    }
    const hearsay = this.leapt || (match && match.look !== this.looks.all[0]);
    const limit = hearsay ? byHearsay : 1;
    const confidence = match ? Math.min(match.confidence, limit) * (match.credible ? 1 : incredible) : 0;
    if (!match?.credible || confidence < this.options.threshold) return this.lose(expected, confidence);
    if (wasSeen) this.compareCourse(match, (change ?? asked)?.motion ?? null);
    this.accept(match, onward, guide);
    if (!glance) this.takeStance(picture, match, led);
    if (this.looks.hasReturned(match)) this.looks.dropNewerThan(match.look);
    else if (this.newest) this.looks.keepUp(this.newest, (at) => this.cutAt(picture, at));
    return this.sampleAt(this.current, confidence, SampleState.tracked);
  }

  /**
   * Flow is a guide where it says what the point's own course says, or the whole picture's. Near doubles it may have gone
   * to one of them: then the whole picture must say the same, and nearer to it than a double is.
   */
  private believes(drift: Point, risky: boolean, scene: () => SceneChange | undefined): boolean {
    const { velocity, allowance } = this.course;
    if (!risky && Math.hypot(drift.x - velocity.x, drift.y - velocity.y) <= allowance) return true;
    const motion = scene()?.motion;
    if (!motion) return false;
    const { x, y } = this.middle;
    const all = apply(this.carried(motion), 0, 0);
    const off = { x: x + drift.x - all.x, y: y + drift.y - all.y };
    return this.isNear(off) && !(risky && this.lookalikes.doubt(off) < 1);
  }

  private moved({ x, y }: Point): Mat3 {
    return multiply(translation(x, y), this.current);
  }

  /** Where the point goes with the whole picture, and by what it has been moving against it. */
  private carried(motion: Mat3): Mat3 {
    const { x, y } = this.course.own;
    return multiply(translation(x, y), multiply(motion, this.current));
  }

  private compareCourse({ pose, fit }: Match, motion: Mat3 | null): void {
    // What covers half of the box may have dragged it along.
    if (!motion || fit.share < recognisedShare) return;
    const { x, y } = this.offset;
    this.course.compare(apply(pose, x, y), apply(multiply(motion, this.current), x, y));
  }

  private lose(expected: Mat3, confidence: number): Sample {
    this.course.lost();
    this.thorough = null;
    this.upright.goOn(this.current, expected);
    this.current = expected;
    return this.sampleAt(expected, confidence, SampleState.lost);
  }

  /** `guide` is how the whole picture has moved, if that was asked. */
  private accept({ look, fit, pose, likeness: alike }: Match, onward: Mat3, guide: Mat3 | null): void {
    const { current, upright, offset } = this;
    const [last, wanted, here] = [current, onward, pose].map((m) => apply(m, offset.x, offset.y));
    this.course.seen(here, wanted, last);
    this.active = look;
    this.current = pose;
    if (guide) upright.found(look.template, pose, guide);
    else upright.goOn(current, pose);
    // What covers a part must not pass for noise from then on.
    const known = look.exposure?.residual ?? fit.residual;
    const residual = alike >= asExpected ? fit.residual : Math.min(fit.residual, known * 1.05);
    look.exposure = { gain: fit.gain, bias: fit.bias, residual };
  }

  /** Where the point is when the key's box is at a pose. */
  private placeAt(pose: Mat3): Place {
    const { x, y } = apply(pose, this.offset.x, this.offset.y);
    const { rotation, scale } = turnAt(pose, this.offset.x, this.offset.y, this.aspect);
    return { x, y, rotation: this.keyRotation + rotation, scale: this.keyScale * scale };
  }

  private sampleAt(pose: Mat3, confidence: number, state: SampleState): Sample {
    const { x, y, rotation, scale } = this.placeAt(pose);
    return { x, y, confidence, rotation, scale, state };
  }

  /**
   * While all is as it was when it was last looked at thoroughly, the look is registered and nothing else: it is held
   * by what held it then, and not surer than it was. It is certain unless anything may have changed.
   */
  private glance(picture: TrackPicture, expected: Mat3, led: boolean): Glanced | null {
    const { thorough, frames, kernels } = this;
    if (!thorough) return null;
    const { stance } = thorough;
    const { look, shape, confidence } = stance.match;
    // What was let do less than its shape, for a frame that was smeared, gets another chance.
    if (shape !== look.template.shape) return null;
    // With looks newer than the one that decides, both must be followed.
    const area = look === this.looks.newest && this.near(picture, look, expected);
    if (!area) return null;
    const due = frames - thorough.frame >= (led ? ledGlances : glances) || this.watches(led);
    const glance = glanceAt(kernels, stance, area, ownPose(look, expected), led, look.exposure);
    if (!glance || !this.plausible(multiply(glance.fit.matrix, look.fromKey))) return null;
    const found = this.judge(look, shape, glance.fit, expected);
    const match = matchOf(found, found.fit, Math.min(found.confidence, confidence));
    const asBefore = glance.asBefore && found.credible;
    if (due || !asBefore) return { match, asBefore, certain: false };
    this.newest = found;
    // Where what holds the box is known better now the next look is a thorough one.
    const { template } = look;
    const all = stance.grid === template.full;
    if (all && learnSlopes(kernels, template, seenUnder(kernels, template), glance.fit)) this.thorough = null;
    return { match, asBefore, certain: true };
  }

  /** Makes ready for glances at what was found. */
  private takeStance(picture: TrackPicture, match: Match, led: boolean): void {
    const area = led ? this.near(picture, match.look, match.pose) : null;
    this.thorough = { stance: takeStance(this.kernels, match, area), frame: this.frames };
  }

  /** The picture about where a look is expected. */
  private near(picture: TrackPicture, look: Look, expected: Mat3): SearchArea | null {
    return cutAround(this.kernels, picture, this.options.analysis, look, expected, nearReach, 'near');
  }

  /** Registers the look that served last where the point is expected, or where it was glimpsed. */
  private lookNear(
    picture: TrackPicture,
    expected: Mat3,
    led = false,
    glanced: Glanced | null = null,
  ): Near | null {
    const { active } = this;
    const area = this.near(picture, active, expected);
    if (!area) return null;
    const again = glanced?.match.look === active ? glanced : null;
    const seen = again?.match ?? this.glimpseAt(active, area, expected, expected, led);
    return { area, match: this.settle(seen, area, expected, expected, led, again?.asBefore) };
  }

  /** What was found where it was expected, if it is there for certain. Now and then its lookalikes are looked for. */
  private takeNear(picture: TrackPicture, { area, match }: Near, expected: Mat3, led: boolean): Match | null {
    if (!match || !(isGood(match) || (led && this.isConfirmed(match)))) return null;
    if (match.confidence < this.options.threshold) return null;
    if (this.watches(led)) {
      const wide = this.around(picture, expected);
      if (wide)
        this.lookalikes.remember(placesOf(this.kernels, this.active, wide, expected), middleOf(match));
    }
    return this.decide(match, area);
  }

  /** Whether lookalikes are looked for on this frame though the point is found without. */
  private watches(led: boolean): boolean {
    return this.frames % (led ? ledWatchInterval : watchInterval) === 0;
  }

  /** Whether a search said lately that a place so much like the point is the point. */
  private isConfirmed({ credible, likeness, fit: { share } }: Match): boolean {
    const { confirmed, frames } = this;
    const lately = confirmed !== null && frames - confirmed.frame <= confirmedFor;
    return lately && credible && likeness > confirmed.likeness - 0.05 && share > confirmed.share - 0.1;
  }

  /** The look that served last finds the place; of those that fit there the oldest decides. */
  private find(picture: TrackPicture, expected: Mat3, near: Near | null): Match | null {
    const { active, kernels } = this;
    const direct = near?.match;
    const wide = this.around(picture, expected);
    if (!wide) return near && direct ? this.decide(direct, near.area) : null;
    const peaks = placesOf(kernels, active, wide, expected);
    let searched = this.best(active, wide, peaks, expected, direct);
    // Something may be in the way: each half of the box is looked for by itself.
    const whole = [searched, direct].filter((m) => m?.credible).map((m) => m?.likeness ?? 0);
    const fruitless = whole.length > 0 && this.frames < this.halvesAgain;
    if (!fruitless && !whole.some((alike) => alike >= inFull)) {
      const reach = aroundHalves + 2 * this.course.allowance;
      const places = placesOfHalves(kernels, active, wide, expected, reach);
      const halves = this.best(active, wide, places, expected);
      const better = halves?.credible && !(searched?.credible && searched.likeness >= halves.likeness);
      if (better) searched = halves;
      else this.halvesAgain = this.frames + restOfHalves;
    }
    // Unless another place is clearly better, it is the nearer one.
    const nearer = direct && (!searched || (direct.credible && direct.likeness >= searched.likeness - 0.03));
    const chosen = nearer ? direct : searched;
    if (!chosen) return null;
    if (chosen.credible) this.lookalikes.remember(peaks, middleOf(chosen));
    return this.decide(chosen, nearer && near ? near.area : wide);
  }

  /** Registers a look at a pose, by `how`; where its shape leads to nothing plausible, as a mere shift. */
  private fitAt<F extends Glimpse>(
    how: (...args: Parameters<typeof refine>) => F | null,
    look: Look,
    area: Area,
    pose: Mat3,
    options: RefineOptions,
  ): { fit: F; shape: Shape } | null {
    const start = ownPose(look, pose);
    for (const shape of new Set([look.template.shape, 'shift' as const])) {
      const { close, alone } = options;
      const fit = how(this.kernels, look.template, area, start, look.exposure, { shape, close, alone });
      const straight = shape === 'shift' && look.template.shape !== 'shift';
      if (fit && (straight || this.plausible(multiply(fit.matrix, look.fromKey)))) return { fit, shape };
    }
    return null;
  }

  /** Registers the lattice of a look at a pose; null where nothing fits. */
  private glimpseAt(look: Look, area: Area, pose: Mat3, expected: Mat3, close = false): Sighting | null {
    const found = this.fitAt(glimpse, look, area, pose, { close });
    return found && this.sight(look, found.shape, found.fit, expected);
  }

  /**
   * Registers all pixels: from where some have led, and, where that is not as it should be, by themselves: smear leads
   * a lattice astray. Where it has been led `surely` it need not be asked.
   */
  private settle(
    seen: Sighting | null,
    area: Area,
    pose: Mat3,
    expected: Mat3,
    close = false,
    surely = false,
  ): Match | null {
    const { look, shape } = seen ?? { look: this.active, shape: this.options.shape };
    const { kernels } = this;
    const { exposure, template } = look;
    const led = seen && refine(kernels, template, area, pose, exposure, { shape, glimpsed: seen.fit });
    const found = led && this.judge(look, shape, led, expected);
    if (found && (this.isAsThorough(found) || (isGood(found) && found.confidence >= beyondDoubt)))
      return found;
    if (found && (surely || template.full === template.lattice)) return found;
    const fitted = this.fitAt(refine, look, area, pose, { close, alone: true });
    const alone = fitted && this.judge(look, fitted.shape, fitted.fit, expected);
    return found && (!alone || rank(found) > rank(alone)) ? found : alone;
  }

  /** Whether it is just what the last thorough look has found, which was asked twice. */
  private isAsThorough({ look, fit, confidence }: Match): boolean {
    const before = this.thorough?.stance.match;
    if (!before || before.look !== look || !isAsBefore(fit, before.fit)) return false;
    return confidence >= before.confidence - 0.03;
  }

  /** A look registered where `fit` says, when it was expected elsewhere. */
  private judge(look: Look, shape: Shape, fit: Fit, expected: Mat3): Match {
    const seen = this.sight(look, shape, fit, expected);
    const { template } = look;
    // Where all it could do was shift, nothing tells how it has turned.
    const unnoticed =
      shape !== template.shape ? template.aside * turning : template.lever * this.turningUnnoticed;
    const error = Math.hypot(fit.error, Math.min(unnoticed, mostUnnoticed));
    const confidence = confidenceOf(fit, Math.max(look.best, fit.score), error) * seen.doubt;
    return matchOf(seen, fit, confidence);
  }

  /** How far the point may have turned, radians, where its texture does not tell. */
  private get turningUnnoticed(): number {
    return Math.max(this.course.partsFromAll ? turning : turningAlong, this.upright.unseenTurn);
  }

  private sight(look: Look, shape: Shape, fit: Glimpse, expected: Mat3): Sighting {
    const pose = multiply(fit.matrix, look.fromKey);
    const leap = this.leap(expected, pose);
    const best = Math.max(look.best, fit.score);
    const alike = likeness(fit, best);
    const doubt = this.lookalikes.doubt(leap);
    const known = this.course.missing === 0 || (alike >= recognised && fit.share >= recognisedShare);
    const credible = known && this.isCredible(leap, alike);
    return { look, shape, fit, pose, likeness: alike, doubt, credible };
  }

  /** How far a pose has the point from where it was expected. */
  private leap(expected: Mat3, pose: Mat3): Point {
    const { x, y } = this.offset;
    const [from, to] = [apply(expected, x, y), apply(pose, x, y)];
    return { x: to.x - from.x, y: to.y - from.y };
  }

  /** Whether neither where it was expected nor the whole picture's motion explains how the point came there. */
  private isLeap(pose: Mat3, expected: Mat3, scene: () => SceneChange | undefined): boolean {
    if (this.isNear(this.leap(expected, pose))) return false;
    const all = scene();
    return !all || !this.goesWith(all, pose, this.reach);
  }

  /** Whether a pose is no farther, in pixels, from where the whole picture, or another great part of it, leads the point. */
  private goesWith({ motion, other }: SceneChange, pose: Mat3, reach: number): boolean {
    return [motion, other].some((all) => {
      if (!all) return false;
      const { x, y } = this.leap(this.carried(all), pose);
      return Math.hypot(x, y) <= reach;
    });
  }

  /** Farther than this from where it is expected, in pixels, a find is a leap. */
  private get reach(): number {
    return this.bound ? this.course.allowanceWithAll : this.course.allowance;
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
    return !this.bound && alike >= asExpected && alike >= this.lookalikes.strongest + itself;
  }

  /** Of the looks that fit where one was found, the oldest decides. */
  private decide(found: Match, area: Area): Match {
    const { kernels } = this;
    const looks = this.looks.all;
    this.newest = found;
    if (looks.length === 1) return found;
    const fits = looks.map((look) => {
      if (look === found.look) return found;
      const start = ownPose(look, found.pose);
      const fit = refine(kernels, look.template, area, start, look.exposure);
      if (!fit || !this.plausible(multiply(fit.matrix, look.fromKey))) return null;
      const match = this.judge(look, look.template.shape, fit, found.pose);
      match.doubt = found.doubt;
      return match;
    });
    this.newest = fits[fits.length - 1];
    const best = Math.max(...fits.map((f) => f?.fit.score ?? -1));
    const holds = (f: Match | null): boolean =>
      !!f && f.fit.score >= best - loyalty && f.confidence >= this.options.threshold;
    return fits.find(holds) ?? found;
  }

  private searchReach(): Point {
    const { width, height } = this.active.template;
    const { search } = this.options;
    return {
      x: Math.max(2, Math.round((search.width - width) / 2)),
      y: Math.max(2, Math.round((search.height - height) / 2)),
    };
  }

  /** The part of the picture to search about an expected pose; null when it lies outside. */
  private around(picture: TrackPicture, expected: Mat3): SearchArea | null {
    const { analysis } = this.options;
    return cutAround(this.kernels, picture, analysis, this.active, expected, this.searchReach(), 'wide');
  }

  /**
   * Of the likeliest places found the one most like the point, if it can be believed; `direct` is what was found
   * where the point was expected.
   */
  private best(
    look: Look,
    area: SearchArea,
    peaks: readonly Peak[],
    expected: Mat3,
    direct: Match | null = null,
  ): Match | null {
    const turned = ownPose(look, expected);
    const middle = { x: turned[2] / turned[8], y: turned[5] / turned[8] };
    const reach = this.searchReach();
    const worth = ({ x, y, score }: Peak): number =>
      score - farPenalty * Math.hypot((x - middle.x) / reach.x, (y - middle.y) / reach.y);
    const ranked = [...peaks].sort((p, q) => worth(q) - worth(p)).slice(0, mostPlaces);
    // A search that leads to what was found without it has nothing to add.
    if (direct?.credible && ranked.length > 0 && isAt(ranked[0], middleOf(direct))) {
      this.confirmed = { frame: this.frames, likeness: direct.likeness, share: direct.fit.share };
      return direct;
    }
    let best: Sighting | null = null;
    let from = expected;
    for (const { x, y } of ranked) {
      const pose = multiply(translation(x - middle.x, y - middle.y), expected);
      const seen = this.glimpseAt(look, area, pose, expected);
      if (seen && (!best || rank(seen) > rank(best))) [best, from] = [seen, pose];
      // The first is the nearest good one; others count only where it is doubtful.
      if (best?.credible && best.likeness >= asExpected) break;
    }
    return best && this.settle(best, area, from, expected);
  }

  /** From one frame to the next nothing turns or grows by more than a little. */
  private plausible(next: Mat3): boolean {
    const before = turnAt(this.current, 0, 0, this.aspect);
    const after = turnAt(next, 0, 0, this.aspect);
    const ratio = Math.abs(Math.log(after.scale / before.scale));
    const angle = Math.abs(after.rotation - before.rotation);
    const slack = 1 + 0.3 * this.course.missing;
    return ratio < 0.08 * slack && Math.min(angle, 2 * Math.PI - angle) < 0.15 * slack;
  }
}

/** What was seen, and how all of its pixels fit. */
const matchOf = (
  { look, shape, pose, likeness, doubt, credible }: Sighting,
  fit: Fit,
  confidence: number,
): Match => ({ look, shape, fit, pose, likeness, doubt, credible, confidence });

/** Of the places a search finds so many are looked at closely. */
const mostPlaces = 3;
/** So far around the expected place, in pixels, a registration without a search may look. */
const nearReach: Point = { x: 6, y: 6 };

/** What a glance has found, whether it is as it was, and whether that will do. */
interface Glanced {
  match: Match;
  asBefore: boolean;
  certain: boolean;
}

/** What was looked at where the point was expected, and what fits there. */
interface Near {
  area: SearchArea;
  match: Match | null;
}
