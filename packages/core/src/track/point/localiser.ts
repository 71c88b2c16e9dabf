import { multiply, translation, type Mat3, type Point } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import type { TrackPicture } from '../image/analysis.js';
import type { Patch } from '../image/patch.js';
import { registerFixedHessian, linearise, type Linearisation } from '../register/fixed-hessian.js';
import {
  cutAround,
  ownPose,
  placesOf,
  type BankedTemplate,
  type SearchPatch,
} from '../appearance/banked-template.js';
import type { TemplateBank } from '../appearance/template-bank.js';
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
import type { PointTrackerOptions } from '../options.js';
import {
  registerCoarse,
  registerFull,
  seenUnder,
  type CoarseFit,
  type RegisterOptions,
} from '../register/registration.js';
import type { Peak } from '../search/correlation-search.js';
import type { WarpModel } from '../../geometry/warp-model.js';
import { refreshGradients } from '../register/refresh-gradients.js';
import { registerBlurred } from '../register/motion-blur/register-blurred.js';
import type { PointState } from '../predict/gating.js';

/** How much correlation a peak loses for lying a whole search box away from where it was expected. */
const farPenalty = 0.08;
/** An older template is preferred to a newer one that fits at most so much better. */
const loyalty = 0.05;
/** Confidence at which what the subsample led to needs no second opinion. */
export const beyondDoubt = 0.9;
/** So many frames one of many is not asked for motion blur again where it explained nothing; twice as many each time. */
const restOfBlur = { least: 12, most: 48 };
/** Where the flow leads, what a search has confirmed holds for so many frames. */
const confirmedFor = 25;
/** After a full registration so many frames less will do, but no more than this share of those since the key. */
const fixedHessianFrames = 8;
const ledFixedHessianFrames = 24;
const fixedHessianShare = 1 / 3;
/**
 * While newer templates than the one that decides are kept, they are to be followed, too: where it is so sure, every so many
 * frames, else on every one.
 */
const sureOfItself = 0.8;
const fixedHessianBetween = 3;
/** Even where all is well, every so many frames the box is searched for places that look alike: less often where flow leads. */
const watchInterval = 8;
const ledWatchInterval = 24;
/**
 * More left over than so many times what there usually is, and so many grey levels besides, may be motion blur where the picture
 * is so like the template.
 */
const leftOver = { share: 1.3, besides: 0.3 };
const blurrable = 0.85;
/** The median size of normal noise of deviation 1. */
const medianOfNormal = 0.6745;
/** Of the places a search finds so many are looked at closely. */
const mostPlaces = 3;
/** So far around the expected place, in pixels, a registration without a search may look. */
const nearReach: Point = { x: 6, y: 6 };

/** Whether more is left over than the grain of template and picture leaves. */
const leavesMore = ({ fit, banked: { template } }: Match): boolean =>
  fit.residual > leftOver.share * medianOfNormal * Math.sqrt(2 * template.grain) + leftOver.besides;

/** What a fixed-Hessian registration has found, whether it is as it was, and whether that will do. */
export interface FixedHessianMatch {
  match: Match;
  asBefore: boolean;
  certain: boolean;
}

/** What was looked at where the point was expected, and what fits there. */
export interface Near {
  area: SearchPatch;
  match: Match | null;
}

/**
 * Looks for a point in a picture: a fixed-Hessian registration where all is as it was, a registration where it is expected, a search of the
 * box about that, each when the one before does not do.
 */
export class Localiser {
  /** The look that decided last. */
  active!: BankedTemplate;
  /** How the newest look fitted last. */
  newest: Match | null = null;
  private frames = 0;
  private blurAgain = 0;
  private blurRest = restOfBlur.least;
  private blurredAt = -Infinity;
  /** The last time that a search led to where the point was found without it, and how that fitted. */
  private confirmed: { frame: number; likeness: number; share: number } | null = null;
  /** What was found the last time that nothing was taken for granted. */
  private thorough: { linearisation: Linearisation; frame: number; wary: boolean } | null = null;

  constructor(
    private readonly kernels: TrackKernels,
    private readonly options: PointTrackerOptions,
    private readonly bank: TemplateBank,
    private readonly point: PointState,
    /** Whether a quarter of the pixels must do for a fixed-Hessian registration. */
    private readonly sparing: boolean,
  ) {}

  /** Begins with a template of which nothing has been seen yet. */
  begin(banked: BankedTemplate): void {
    this.active = banked;
    this.frames = 0;
    this.blurAgain = 0;
    this.blurRest = restOfBlur.least;
    this.blurredAt = -Infinity;
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
  findDistractors(picture: TrackPicture, pose: Mat3, here: Point): void {
    const area = this.around(picture, pose);
    if (area) this.point.distractors.remember(placesOf(this.kernels, this.active, area, pose), here);
  }

  /**
   * While all is as it was when it was last looked at thoroughly, the look is registered and nothing else: it is held
   * by what held it then, and not surer than it was. It is certain unless anything may have changed.
   */
  fixed(picture: TrackPicture, expected: Mat3, led: boolean): FixedHessianMatch | null {
    const { thorough, frames, kernels } = this;
    if (!thorough) return null;
    const { linearisation } = thorough;
    const { banked, model, confidence, reason } = linearisation.match;
    // What was let do less than its shape, for a frame that was blurred, gets another chance.
    if (model !== banked.template.model) return null;
    const isNewest = banked === this.bank.newest;
    const area = (isNewest || confidence >= sureOfItself) && this.near(picture, banked, expected);
    if (!area) return null;
    const often =
      isNewest && !thorough.wary ? (led ? ledFixedHessianFrames : fixedHessianFrames) : fixedHessianBetween;
    const since = frames - thorough.frame;
    const due = since >= Math.min(often, fixedHessianShare * frames) || this.watches(led);
    const fixed = registerFixedHessian(
      kernels,
      linearisation,
      area,
      ownPose(banked, expected),
      led,
      banked.exposure,
    );
    if (!fixed || !this.point.isPlausible(multiply(fixed.fit.matrix, banked.fromKey))) return null;
    const found = this.point.judge(banked, model, fixed.fit, expected);
    const worse = found.confidence < confidence;
    const match = matchOf(
      found,
      found.fit,
      worse ? found.confidence : confidence,
      worse ? found.reason : reason,
    );
    const asBefore = fixed.asBefore && found.credible;
    if (due || !asBefore) return { match, asBefore, certain: false };
    this.newest = isNewest ? found : null;
    // Where what holds the box is known better now the next registration is a full one.
    const { template } = banked;
    const all = linearisation.pixelSet === template.full;
    if (all && refreshGradients(kernels, template, seenUnder(kernels, template), fixed.fit))
      this.thorough = null;
    return { match, asBefore, certain: true };
  }

  /** Linearises what was found. */
  linearise(picture: TrackPicture, match: Match, led: boolean): void {
    // A blurred picture is not linearised at: the next may be sharp again, as the last one was, or blurred another way.
    if (match.fit.blur) return;
    const wary = this.frames - this.blurredAt < restOfBlur.most && leavesMore(match);
    const area = led && this.sparing ? this.near(picture, match.banked, match.pose) : null;
    this.thorough = { linearisation: linearise(this.kernels, match, area), frame: this.frames, wary };
  }

  /** The picture about where a template is expected. */
  private near(picture: TrackPicture, banked: BankedTemplate, expected: Mat3): SearchPatch | null {
    return cutAround(this.kernels, picture, this.options.analysis, banked, expected, nearReach, 'near');
  }

  /** Registers the template that served last where the point is expected, or where the subsample led. */
  registerNear(
    picture: TrackPicture,
    expected: Mat3,
    led = false,
    byFixedHessian: FixedHessianMatch | null = null,
  ): Near | null {
    const { active } = this;
    const area = this.near(picture, active, expected);
    if (!area) return null;
    const again = byFixedHessian?.match.banked === active ? byFixedHessian : null;
    const seen = again?.match ?? this.coarseAt(active, area, expected, expected, led);
    return { area, match: this.registerBlurAware(seen, area, expected, expected, led, again?.asBefore) };
  }

  /** What was found where it was expected, if it is there for certain. Now and then its distractors are looked for. */
  takeNear(picture: TrackPicture, { area, match }: Near, expected: Mat3, led: boolean): Match | null {
    if (!match || !(isGood(match) || (led && this.isConfirmed(match)))) return null;
    if (match.confidence < this.options.threshold) return null;
    if (this.watches(led)) {
      this.findDistractors(picture, expected, middleOf(match));
    }
    return this.decide(match, area);
  }

  /** Whether distractors are looked for on this frame though the point is found without. */
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
    const { active } = this;
    const direct = near?.match;
    const wide = this.around(picture, expected);
    if (!wide) return near && direct ? this.decide(direct, near.area) : null;
    const peaks = placesOf(this.kernels, active, wide, expected);
    const searched = this.best(active, wide, peaks, expected, direct);
    // Unless another place is clearly better, it is the nearer one.
    const nearer = direct && (!searched || (direct.credible && direct.likeness >= searched.likeness - 0.03));
    const chosen = nearer ? direct : searched;
    if (!chosen) return null;
    if (chosen.credible) this.point.distractors.remember(peaks, middleOf(chosen));
    return this.decide(chosen, nearer && near ? near.area : wide);
  }

  /** Registers a look at a pose, by `how`; where its shape leads to nothing plausible, as a mere shift. */
  private fitAt<F extends CoarseFit>(
    how: (...args: Parameters<typeof registerFull>) => F | null,
    banked: BankedTemplate,
    area: Patch,
    pose: Mat3,
    options: RegisterOptions,
  ): { fit: F; model: WarpModel } | null {
    const start = ownPose(banked, pose);
    for (const model of new Set([banked.template.model, 'translation' as const])) {
      const { close, alone } = options;
      const fit = how(this.kernels, banked.template, area, start, banked.exposure, { model, close, alone });
      const straight = model === 'translation' && banked.template.model !== 'translation';
      if (fit && (straight || this.point.isPlausible(multiply(fit.matrix, banked.fromKey))))
        return { fit, model };
    }
    return null;
  }

  /** Registers a template's subsample at a pose; null where nothing fits. */
  private coarseAt(
    banked: BankedTemplate,
    area: Patch,
    pose: Mat3,
    expected: Mat3,
    close = false,
  ): Sighting | null {
    const found = this.fitAt(registerCoarse, banked, area, pose, { close });
    return found && this.point.sight(banked, found.model, found.fit, expected);
  }

  /** Registers all pixels, and where the picture is blurred so is the template. */
  private registerBlurAware(...where: Parameters<Localiser['register']>): Match | null {
    const found = this.register(...where);
    const [, area, , expected] = where;
    return found && this.blurAware(found, area, expected);
  }

  /** The same blurred as the picture is, where that explains what has come to be left over. */
  private blurAware(found: Match, area: Patch, expected: Mat3): Match {
    const { banked, model, fit } = found;
    const { template, exposure } = banked;
    if (this.sparing && (found.confidence >= sureOfItself || this.frames < this.blurAgain)) return found;
    if (!leavesMore(found) || model !== template.model || fit.score < blurrable) return found;
    const blurred = registerBlurred(this.kernels, template, area, fit, exposure);
    if (blurred && this.point.isPlausible(multiply(blurred.matrix, banked.fromKey))) {
      const match = this.point.judge(banked, model, blurred, expected);
      if (match.credible && match.confidence > found.confidence) {
        this.blurRest = restOfBlur.least;
        this.blurredAt = this.frames;
        return match;
      }
    }
    this.blurAgain = this.frames + this.blurRest;
    this.blurRest = Math.min(2 * this.blurRest, restOfBlur.most);
    return found;
  }

  /**
   * Registers all pixels: from where some have led, and, where that is not as it should be, by themselves: motion blur leads
   * a subsample astray. Where it has been led `surely` it need not be asked.
   */
  private register(
    seen: Sighting | null,
    area: Patch,
    pose: Mat3,
    expected: Mat3,
    close = false,
    surely = false,
  ): Match | null {
    const { banked, model } = seen ?? { banked: this.active, model: this.options.model };
    const { kernels } = this;
    const { exposure, template } = banked;
    const led = seen && registerFull(kernels, template, area, pose, exposure, { model, coarse: seen.fit });
    const found = led && this.point.judge(banked, model, led, expected);
    if (found && (this.isAsThorough(found) || (isGood(found) && found.confidence >= beyondDoubt)))
      return found;
    if (found && (surely || template.full === template.subsample)) return found;
    const fitted = this.fitAt(registerFull, banked, area, pose, { close, alone: true });
    const alone = fitted && this.point.judge(banked, fitted.model, fitted.fit, expected);
    return found && (!alone || rank(found) > rank(alone)) ? found : alone;
  }

  /** Whether it is just what the last full registration has found, which was asked twice. */
  private isAsThorough({ banked, fit, confidence }: Match): boolean {
    const before = this.thorough?.linearisation.match;
    if (!before || before.banked !== banked || !isAsBefore(fit, before.fit)) return false;
    return confidence >= before.confidence - 0.03;
  }

  /** Of the looks that fit where one was found, the oldest decides. */
  private decide(found: Match, area: Patch): Match {
    const { kernels } = this;
    const bank = this.bank.all;
    this.newest = found;
    if (bank.length === 1) return found;
    const fits = bank.map((banked) => {
      if (banked === found.banked) return found;
      const start = ownPose(banked, found.pose);
      const fit = registerFull(kernels, banked.template, area, start, banked.exposure);
      if (!fit || !this.point.isPlausible(multiply(fit.matrix, banked.fromKey))) return null;
      const match = this.point.judge(banked, banked.template.model, fit, found.pose);
      match.ambiguity = found.ambiguity;
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
  private around(picture: TrackPicture, expected: Mat3): SearchPatch | null {
    const { analysis } = this.options;
    return cutAround(this.kernels, picture, analysis, this.active, expected, this.searchReach(), 'wide');
  }

  /**
   * Of the likeliest places found the one most like the point, if it can be believed; `direct` is what was found
   * where the point was expected.
   */
  private best(
    banked: BankedTemplate,
    area: SearchPatch,
    peaks: readonly Peak[],
    expected: Mat3,
    direct: Match | null = null,
  ): Match | null {
    const turned = ownPose(banked, expected);
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
      const seen = this.coarseAt(banked, area, pose, expected);
      if (seen && (!best || rank(seen) > rank(best))) [best, from] = [seen, pose];
      // The first is the nearest good one; others count only where it is doubtful.
      if (best?.credible && best.likeness >= asExpected) break;
    }
    return best && this.registerBlurAware(best, area, from, expected);
  }
}
