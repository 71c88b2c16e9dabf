import { multiply, translation, type Mat3, type Point } from '../geometry/mat3.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import type { TrackPicture } from './analysis.js';
import type { Area } from './area.js';
import { glanceAt, takeStance, type Stance } from './glance.js';
import { cutAround, ownPose, placesOf, placesOfHalves, type Look, type SearchArea } from './look.js';
import type { Looks } from './looks.js';
import {
  asExpected,
  isAsBefore,
  isAt,
  isGood,
  matchOf,
  middleOf,
  rank,
  type Match,
  type Sighting,
} from './match.js';
import type { PointTrackerOptions } from './point-tracker.js';
import { glimpse, refine, seenUnder, type Glimpse, type RefineOptions } from './refine.js';
import type { Peak } from './search.js';
import type { Shape } from './shape.js';
import { learnSlopes } from './template.js';
import { unsmear } from './unsmear.js';
import type { Whereabouts } from './whereabouts.js';

/** How much correlation a peak loses for lying a whole search box away from where it was expected. */
const farPenalty = 0.08;
/** An older look is preferred to a newer one that fits at most so much better. */
const loyalty = 0.05;
/** Confidence at which what the lattice led to needs no second opinion. */
export const beyondDoubt = 0.9;
/** Less alike than this, a part of the box may be covered. */
const inFull = 0.82;
/** Halves are looked for where the point may be, and so many pixels around: it may have been lost for a while. */
const aroundHalves = 12;
/** So many frames the halves are left alone when they had nothing better to offer. */
const restOfHalves = 4;
/** So many frames one of many is not asked for smear again where it explained nothing; twice as many each time. */
const restOfSmear = { least: 12, most: 48 };
/** Where the flow leads, what a search has confirmed holds for so many frames. */
const confirmedFor = 25;
/** After a thorough look so many frames less will do, but no more than this share of those since the key. */
const glances = 8;
const ledGlances = 24;
const glancesSinceKey = 1 / 3;
/**
 * While newer looks than the one that decides are kept, they are to be followed, too: where it is so sure, every so many
 * frames, else on every one.
 */
const sureOfItself = 0.8;
const glancesBetween = 3;
/** Even where all is well, every so many frames the box is searched for places that look alike: less often where flow leads. */
const watchInterval = 8;
const ledWatchInterval = 24;
/**
 * More left over than so many times what there usually is, and so many grey levels besides, may be smear where the picture
 * is so like the template.
 */
const leftOver = { share: 1.3, besides: 0.3 };
const smearable = 0.85;
/** The median size of normal noise of deviation 1. */
const medianOfNormal = 0.6745;
/** Of the places a search finds so many are looked at closely. */
const mostPlaces = 3;
/** So far around the expected place, in pixels, a registration without a search may look. */
const nearReach: Point = { x: 6, y: 6 };

/** Whether more is left over than the grain of template and picture leaves. */
const leavesMore = ({ fit, look: { template } }: Match): boolean =>
  fit.residual > leftOver.share * medianOfNormal * Math.sqrt(2 * template.grain) + leftOver.besides;

/** What a glance has found, whether it is as it was, and whether that will do. */
export interface Glanced {
  match: Match;
  asBefore: boolean;
  certain: boolean;
}

/** What was looked at where the point was expected, and what fits there. */
export interface Near {
  area: SearchArea;
  match: Match | null;
}

/**
 * Looks for a point in a picture: a glance where all is as it was, a registration where it is expected, a search of the
 * box about that, each when the one before does not do.
 */
export class Finder {
  /** The look that decided last. */
  active!: Look;
  /** How the newest look fitted last. */
  newest: Match | null = null;
  private frames = 0;
  private halvesAgain = 0;
  private smearAgain = 0;
  private smearRest = restOfSmear.least;
  private smearedAt = -Infinity;
  /** The last time that a search led to where the point was found without it, and how that fitted. */
  private confirmed: { frame: number; likeness: number; share: number } | null = null;
  /** What was found the last time that nothing was taken for granted. */
  private thorough: { stance: Stance; frame: number; wary: boolean } | null = null;

  constructor(
    private readonly kernels: TrackKernels,
    private readonly options: PointTrackerOptions,
    private readonly looks: Looks,
    private readonly whereabouts: Whereabouts,
    /** Whether a quarter of the pixels must do for a glance. */
    private readonly sparing: boolean,
  ) {}

  /** Begins with a look of which nothing has been seen yet. */
  begin(look: Look): void {
    this.active = look;
    this.frames = 0;
    this.halvesAgain = 0;
    this.smearAgain = 0;
    this.smearRest = restOfSmear.least;
    this.smearedAt = -Infinity;
    this.confirmed = null;
    this.thorough = null;
  }

  /** Another picture is to be looked at. */
  next(): void {
    this.frames++;
  }

  /** Nothing is as it was. */
  startle(): void {
    this.thorough = null;
  }

  /** Whether it is one of the frames, so many from one to the next and half of that in, on which the whole picture is looked at. */
  get isWatchful(): boolean {
    return this.frames % watchInterval === watchInterval / 2;
  }

  /** Looks for places that are like the point, which is at a pose. */
  seekLookalikes(picture: TrackPicture, pose: Mat3, here: Point): void {
    const area = this.around(picture, pose);
    if (area) this.whereabouts.lookalikes.remember(placesOf(this.kernels, this.active, area, pose), here);
  }

  /**
   * While all is as it was when it was last looked at thoroughly, the look is registered and nothing else: it is held
   * by what held it then, and not surer than it was. It is certain unless anything may have changed.
   */
  glance(picture: TrackPicture, expected: Mat3, led: boolean): Glanced | null {
    const { thorough, frames, kernels } = this;
    if (!thorough) return null;
    const { stance } = thorough;
    const { look, shape, confidence, reason } = stance.match;
    // What was let do less than its shape, for a frame that was smeared, gets another chance.
    if (shape !== look.template.shape) return null;
    const isNewest = look === this.looks.newest;
    const area = (isNewest || confidence >= sureOfItself) && this.near(picture, look, expected);
    if (!area) return null;
    const often = isNewest && !thorough.wary ? (led ? ledGlances : glances) : glancesBetween;
    const since = frames - thorough.frame;
    const due = since >= Math.min(often, glancesSinceKey * frames) || this.watches(led);
    const glance = glanceAt(kernels, stance, area, ownPose(look, expected), led, look.exposure);
    if (!glance || !this.whereabouts.isPlausible(multiply(glance.fit.matrix, look.fromKey))) return null;
    const found = this.whereabouts.judge(look, shape, glance.fit, expected);
    const worse = found.confidence < confidence;
    const match = matchOf(
      found,
      found.fit,
      worse ? found.confidence : confidence,
      worse ? found.reason : reason,
    );
    const asBefore = glance.asBefore && found.credible;
    if (due || !asBefore) return { match, asBefore, certain: false };
    this.newest = isNewest ? found : null;
    // Where what holds the box is known better now the next look is a thorough one.
    const { template } = look;
    const all = stance.grid === template.full;
    if (all && learnSlopes(kernels, template, seenUnder(kernels, template), glance.fit)) this.thorough = null;
    return { match, asBefore, certain: true };
  }

  /** Makes ready for glances at what was found. */
  takeStance(picture: TrackPicture, match: Match, led: boolean): void {
    // A smeared picture is no stance: the next may be sharp again, as the last one was, or smeared another way.
    if (match.fit.smear) return;
    const wary = this.frames - this.smearedAt < restOfSmear.most && leavesMore(match);
    const area = led && this.sparing ? this.near(picture, match.look, match.pose) : null;
    this.thorough = { stance: takeStance(this.kernels, match, area), frame: this.frames, wary };
  }

  /** The picture about where a look is expected. */
  private near(picture: TrackPicture, look: Look, expected: Mat3): SearchArea | null {
    return cutAround(this.kernels, picture, this.options.analysis, look, expected, nearReach, 'near');
  }

  /** Registers the look that served last where the point is expected, or where it was glimpsed. */
  lookNear(picture: TrackPicture, expected: Mat3, led = false, glanced: Glanced | null = null): Near | null {
    const { active } = this;
    const area = this.near(picture, active, expected);
    if (!area) return null;
    const again = glanced?.match.look === active ? glanced : null;
    const seen = again?.match ?? this.glimpseAt(active, area, expected, expected, led);
    return { area, match: this.settle(seen, area, expected, expected, led, again?.asBefore) };
  }

  /** What was found where it was expected, if it is there for certain. Now and then its lookalikes are looked for. */
  takeNear(picture: TrackPicture, { area, match }: Near, expected: Mat3, led: boolean): Match | null {
    if (!match || !(isGood(match) || (led && this.isConfirmed(match)))) return null;
    if (match.confidence < this.options.threshold) return null;
    if (this.watches(led)) {
      this.seekLookalikes(picture, expected, middleOf(match));
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
  find(picture: TrackPicture, expected: Mat3, near: Near | null): Match | null {
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
      const reach = aroundHalves + 2 * this.whereabouts.course.allowance;
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
    if (chosen.credible) this.whereabouts.lookalikes.remember(peaks, middleOf(chosen));
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
      if (fit && (straight || this.whereabouts.isPlausible(multiply(fit.matrix, look.fromKey))))
        return { fit, shape };
    }
    return null;
  }

  /** Registers the lattice of a look at a pose; null where nothing fits. */
  private glimpseAt(look: Look, area: Area, pose: Mat3, expected: Mat3, close = false): Sighting | null {
    const found = this.fitAt(glimpse, look, area, pose, { close });
    return found && this.whereabouts.sight(look, found.shape, found.fit, expected);
  }

  /** Registers all pixels, and where the picture is smeared so is the template. */
  private settle(...where: Parameters<Finder['register']>): Match | null {
    const found = this.register(...where);
    const [, area, , expected] = where;
    return found && this.unsmeared(found, area, expected);
  }

  /** The same smeared as the picture is, where that explains what has come to be left over. */
  private unsmeared(found: Match, area: Area, expected: Mat3): Match {
    const { look, shape, fit } = found;
    const { template, exposure } = look;
    if (this.sparing && (found.confidence >= sureOfItself || this.frames < this.smearAgain)) return found;
    if (!leavesMore(found) || shape !== template.shape || fit.score < smearable) return found;
    const smeared = unsmear(this.kernels, template, area, fit, exposure);
    if (smeared && this.whereabouts.isPlausible(multiply(smeared.matrix, look.fromKey))) {
      const match = this.whereabouts.judge(look, shape, smeared, expected);
      if (match.credible && match.confidence > found.confidence) {
        this.smearRest = restOfSmear.least;
        this.smearedAt = this.frames;
        return match;
      }
    }
    this.smearAgain = this.frames + this.smearRest;
    this.smearRest = Math.min(2 * this.smearRest, restOfSmear.most);
    return found;
  }

  /**
   * Registers all pixels: from where some have led, and, where that is not as it should be, by themselves: smear leads
   * a lattice astray. Where it has been led `surely` it need not be asked.
   */
  private register(
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
    const found = led && this.whereabouts.judge(look, shape, led, expected);
    if (found && (this.isAsThorough(found) || (isGood(found) && found.confidence >= beyondDoubt)))
      return found;
    if (found && (surely || template.full === template.lattice)) return found;
    const fitted = this.fitAt(refine, look, area, pose, { close, alone: true });
    const alone = fitted && this.whereabouts.judge(look, fitted.shape, fitted.fit, expected);
    return found && (!alone || rank(found) > rank(alone)) ? found : alone;
  }

  /** Whether it is just what the last thorough look has found, which was asked twice. */
  private isAsThorough({ look, fit, confidence }: Match): boolean {
    const before = this.thorough?.stance.match;
    if (!before || before.look !== look || !isAsBefore(fit, before.fit)) return false;
    return confidence >= before.confidence - 0.03;
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
      if (!fit || !this.whereabouts.isPlausible(multiply(fit.matrix, look.fromKey))) return null;
      const match = this.whereabouts.judge(look, look.template.shape, fit, found.pose);
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
}
