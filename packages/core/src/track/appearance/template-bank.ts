import { identity, multiply, translation, type Point } from '../../geometry/mat3.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import { freeBanked, bankTemplate, type BankedTemplate } from './banked-template.js';
import type { Match } from '../point/match.js';
import type { Template } from '../template/types.js';

/** A template is cut anew when the correlation has fallen by this much. */
const fallen = 0.12;
/** Believed pixels that correlate like this still show the same thing. */
const alike = 0.95;
/** Over so many frames a template must change if it is to be followed. */
const slowly = 5;
/** When an older template has fitted for so many frames, those since are let go. */
const surelyReturned = 5;
/** Templates kept besides the key's. */
const mostKept = 4;
/** A new template is taken where its place is known this well, in pixels, and so much of the box is believed. */
const exactEnough = 0.2;
const wholeEnough = 0.8;
/** The expected error has grown when it is so many times what it was, and at least so many pixels. */
const blunter = 3;
const leastBlunt = 0.08;
/** What covers one side of the box is no new appearance. */
const evenEnough = 0.9;

/** An expected error from which a template has come to fit worse than it did, pixels. */
const bluntFor = ({ exact }: BankedTemplate): number => Math.max(leastBlunt, blunter * exact);

/** The templates a point has had since its key, oldest first: the key's own leads. */
export class TemplateBank {
  all: readonly BankedTemplate[] = [];
  /** So many frames in a row an older template than the newest has decided. */
  private returned = 0;

  constructor(private readonly kernels: TrackKernels) {}

  get newest(): BankedTemplate {
    return this.all[this.all.length - 1];
  }

  /** Begins with the key's own look. */
  begin(template: Template): BankedTemplate {
    this.drop();
    const banked = bankTemplate(template, identity);
    this.all = [banked];
    this.returned = 0;
    return banked;
  }

  /** Gives the templates' memory back. */
  drop(): void {
    for (const banked of this.all) freeBanked(this.kernels, banked);
    this.all = [];
  }

  /** Whether an older template than the newest has decided for some time, and fits nearly as well as ever. */
  hasReturned({ banked, fit }: Match): boolean {
    const asEver = fit.score > banked.best - (fallen * 2) / 3 && fit.error <= 2 * bluntFor(banked);
    this.returned = banked !== this.newest && asEver ? this.returned + 1 : 0;
    return this.returned >= surelyReturned;
  }

  /** Looks taken since this one have served: they only bridged the way. */
  dropNewerThan(banked: BankedTemplate): void {
    const kept = this.all.indexOf(banked) + 1;
    this.all.slice(kept).forEach((gone) => freeBanked(this.kernels, gone));
    this.all = this.all.slice(0, kept);
    this.returned = 0;
  }

  /**
   * Takes a new template when this one has come to fit worse than it did, slowly and evenly. What covers a part
   * leaves the rest fitting as before, what covers all comes within a few frames, motion blur goes again: none of
   * them is a new appearance. `cut` takes the template about a place.
   */
  update({ banked, fit, pose }: Match, cut: (at: Point) => Template): void {
    banked.best = Math.max(banked.best, fit.score);
    const { recent } = banked;
    recent.push(fit);
    if (recent.length > slowly) recent.shift();
    banked.exact = Math.min(banked.exact, fit.error);
    const blunt = bluntFor(banked);
    const drifting = recent.length >= 3 && recent.slice(-3).every(({ error }) => error > blunt);
    const faded = fit.score < banked.best - fallen;
    if (!(faded || drifting)) return;
    if (Math.max(...recent.map(({ score }) => score)) - fit.score > fallen * 0.75) return;
    if (fit.trusted > alike && faded) return;
    if (fit.share < wholeEnough || fit.balance < evenEnough || fit.error > exactEnough) return;
    const template = cut({ x: pose[2] / pose[8], y: pose[5] / pose[8] });
    const fromKey = multiply(translation(-template.centre.x, -template.centre.y), pose);
    const bank = [...this.all, bankTemplate(template, fromKey)];
    if (bank.length > 1 + mostKept) freeBanked(this.kernels, bank.splice(1, 1)[0]);
    this.all = bank;
  }
}
