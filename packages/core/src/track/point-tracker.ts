import { apply, identity, invert, multiply, translation, type Mat3, type Point } from '../geometry/mat3.js';
import type { Plane } from '../image/plane.js';
import type { TrackKernels } from '../kernels/track-kernels.js';
import { areaBytes, cutArea, type Area } from './area.js';
import { refine, type Exposure, type Fit } from './refine.js';
import { SampleState, type Sample } from './samples.js';
import { searchTemplate, type Peak } from './search.js';
import { turnAt, type Shape } from './shape.js';
import { cutTemplate, freeTemplate, turnTemplate, type SearchTemplate, type Template } from './template.js';

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
  /** Below this confidence the sample is `lost`. */
  threshold: number;
}

export const defaultPointOptions: PointTrackerOptions = {
  template: { width: 41, height: 41 },
  search: { width: 161, height: 161 },
  shape: 'similarity',
  threshold: 0.65,
};

/** One look of the point: the key's own, or one taken on the way when the look had changed. */
interface Look {
  template: Template;
  /** From the key's box to this one. */
  fromKey: Mat3;
  /** Drawn for the search as it was turned when last needed. */
  drawn: { matrix: Mat3; search: SearchTemplate } | null;
  exposure: Exposure | null;
  /** The best correlation it has had, and the last few. */
  best: number;
  recent: number[];
}

/** A rival peak this close to the best one makes the match doubtful. */
const rivalMargin = 0.06;
/** How much correlation a peak loses for lying a whole search box away from where it was expected. */
const farPenalty = 0.08;
/** A template drawn for the search serves until a corner has moved by this many pixels. */
const drawnSlack = 0.7;
/** A look is taken anew when the correlation has fallen by this much. */
const fallen = 0.12;
/** Believed pixels that correlate like this still show the same thing. */
const alike = 0.95;
/** Over so many frames a look must change if it is to be followed. */
const slowly = 5;
/** An older look is preferred to a newer one that fits at most so much better. */
const loyalty = 0.05;
/** Looks kept besides the key's. */
const mostLooks = 4;

type Place = Pick<Sample, 'x' | 'y' | 'rotation' | 'scale'>;

/**
 * Follows one point from frame to frame. The last frames predict where to look; the template of the
 * hand-placed key decides, so that nothing drifts. When the look changes too far from the key, newer looks
 * bridge the way, each registered to the one before; as soon as an older one fits again it decides again,
 * and what had drifted is taken back.
 */
export class PointTracker {
  /** Oldest first: the key's own look leads. */
  private looks: Look[] = [];
  /** The one that decided last. */
  private active!: Look;
  /** From the key's box (pixels from its centre) to the last picture. */
  private current: Mat3 = identity;
  /** The wanted point in the key's box. */
  private offset: Point = { x: 0, y: 0 };
  private keyRotation = 0;
  private keyScale = 1;
  private velocity: Point = { x: 0, y: 0 };

  constructor(
    private readonly kernels: TrackKernels,
    private readonly options: PointTrackerOptions,
  ) {}

  get ready(): boolean {
    return this.looks.length > 0;
  }

  /** Takes the box at a hand-placed position as the template from here on. */
  setKey(picture: Plane, key: Place): void {
    this.dispose();
    const { template: size, shape } = this.options;
    const template = cutTemplate(this.kernels, picture, key, size, shape);
    this.looks = [{ template, fromKey: identity, drawn: null, exposure: null, best: 1, recent: [] }];
    this.active = this.looks[0];
    this.offset = { x: key.x - template.centre.x, y: key.y - template.centre.y };
    this.keyRotation = key.rotation;
    this.keyScale = key.scale;
    this.current = translation(template.centre.x, template.centre.y);
  }

  /** Gives the templates' memory back. */
  dispose(): void {
    for (const look of this.looks) this.drop(look);
    this.looks = [];
  }

  /** Goes on from a sample found earlier, with the key's template. */
  resumeFrom(sample: Place): void {
    const angle = sample.rotation - this.keyRotation;
    const size = sample.scale / this.keyScale;
    const [a, b] = [size * Math.cos(angle), size * Math.sin(angle)];
    const { x, y } = this.offset;
    this.current = [a, -b, sample.x - a * x + b * y, b, a, sample.y - b * x - a * y, 0, 0, 1];
    this.velocity = { x: 0, y: 0 };
  }

  /** Looks for the point in the next picture in the direction of travel. */
  step(picture: Plane): Sample {
    if (!this.ready) throw new Error('A point tracker needs a key before it can follow.');
    const last = apply(this.current, this.offset.x, this.offset.y);
    const expected = { x: last.x + this.velocity.x, y: last.y + this.velocity.y };
    const found = this.find(picture);
    const confidence = found ? Math.min(Math.max(found.fit.score * found.certainty, 0), 1) : 0;
    if (!found || confidence < this.options.threshold) {
      this.velocity = { x: 0, y: 0 };
      return { ...expected, confidence, ...this.turn(), state: SampleState.lost };
    }
    const { look, fit } = found;
    this.active = look;
    this.current = multiply(fit.matrix, look.fromKey);
    look.exposure = fit;
    const here = apply(this.current, this.offset.x, this.offset.y);
    this.velocity = { x: here.x - last.x, y: here.y - last.y };
    this.keepUp(picture, look, fit);
    return { ...here, confidence, ...this.turn(), state: SampleState.tracked };
  }

  private turn(): { rotation: number; scale: number } {
    const { rotation, scale } = turnAt(this.current, this.offset.x, this.offset.y);
    return { rotation: this.keyRotation + rotation, scale: this.keyScale * scale };
  }

  /** The look that served last finds the place; of those that fit there the oldest decides. */
  private find(picture: Plane): { look: Look; fit: Fit; certainty: number } | null {
    const { kernels, looks } = this;
    const area = this.cut(picture, this.active);
    const match = area && this.match(this.active, area);
    if (!match) return null;
    const inKey = multiply(match.fit.matrix, this.active.fromKey);
    const fits = looks.map((look) => {
      if (look === this.active) return match.fit;
      const start = multiply(inKey, invert(look.fromKey));
      const fit = refine(kernels, look.template, area, start, look.exposure);
      return fit && this.plausible(multiply(fit.matrix, look.fromKey)) ? fit : null;
    });
    const best = Math.max(...fits.map((fit) => fit?.score ?? -1));
    const oldest = fits.findIndex((fit) => fit && fit.score >= best - loyalty);
    return { look: looks[oldest], fit: fits[oldest] ?? match.fit, certainty: match.certainty };
  }

  /** The part of the picture that search and refinement will look at; null when it lies outside. */
  private cut(picture: Plane, look: Look): (Area & { inner: Inner }) | null {
    const { width, height } = look.template;
    const { search } = this.options;
    const reachX = Math.max(2, Math.round((search.width - width) / 2));
    const reachY = Math.max(2, Math.round((search.height - height) / 2));
    const pose = multiply(this.current, invert(look.fromKey));
    const left = Math.floor(pose[2] / pose[8] + this.velocity.x) - (width >> 1) - reachX;
    const top = Math.floor(pose[5] / pose[8] + this.velocity.y) - (height >> 1) - reachY;
    const inner = { left: 0, top: 0, width: width + 2 * reachX, height: height + 2 * reachY };
    if (left + inner.width <= 0 || top + inner.height <= 0) return null;
    if (left >= picture.width || top >= picture.height) return null;
    // A turned box hangs over the rectangle that its middle stays in.
    inner.left = inner.top = Math.ceil(Math.max(width, height) / 3) + 8;
    const across = inner.width + 2 * inner.left;
    const down = inner.height + 2 * inner.top;
    const at = this.kernels.room('area', areaBytes(across, down));
    return {
      ...cutArea(this.kernels, picture, left - inner.left, top - inner.top, across, down, at),
      inner,
    };
  }

  private match(look: Look, area: Area & { inner: Inner }): { fit: Fit; certainty: number } | null {
    const { template } = look;
    const { inner } = area;
    const pose = multiply(this.current, invert(look.fromKey));
    const peaks = searchTemplate(this.kernels, this.drawn(look, pose), area, inner);
    if (peaks.length === 0) return null;
    const reachX = (inner.width - template.width) / 2;
    const reachY = (inner.height - template.height) / 2;
    const ranked = peaks.map((peak) => ({
      ...peak,
      worth: peak.score - farPenalty * Math.hypot((peak.x - reachX) / reachX, (peak.y - reachY) / reachY),
    }));
    ranked.sort((p, q) => q.worth - p.worth);
    const [best, rival] = ranked;
    const x = area.left + inner.left + best.x + (template.width >> 1) + 0.5;
    const y = area.top + inner.top + best.y + (template.height >> 1) + 0.5;
    const start = multiply(translation(x - pose[2], y - pose[5]), pose);
    const full = refine(this.kernels, template, area, start, look.exposure);
    const fits =
      full && full.score >= best.score - 0.02 && this.plausible(multiply(full.matrix, look.fromKey));
    const fit = fits ? full : refine(this.kernels, template, area, start, look.exposure, 'shift');
    return fit && { fit, certainty: certainty(best, rival) };
  }

  /** The look's template as the search needs it, drawn anew only when it has turned visibly. */
  private drawn(look: Look, matrix: Mat3): SearchTemplate {
    const { drawn, template } = look;
    const slack = drawnSlack / template.reach;
    if (drawn && [0, 1, 3, 4].every((i) => Math.abs(drawn.matrix[i] - matrix[i]) < slack))
      return drawn.search;
    if (drawn) this.kernels.free(drawn.search.at, drawn.search.bytes);
    const search = turnTemplate(this.kernels, template, matrix);
    look.drawn = { matrix, search };
    return search;
  }

  /**
   * Takes a new look when this one fits much worse than it did. What merely covers a part leaves the rest
   * fitting as before, and what covers all comes within a few frames: neither is a new look.
   */
  private keepUp(picture: Plane, look: Look, fit: Fit): void {
    look.best = Math.max(look.best, fit.score);
    const { recent } = look;
    recent.push(fit.score);
    if (recent.length > slowly) recent.shift();
    if (Math.max(...recent) - fit.score > fallen * 0.75) return;
    const newest = this.looks[this.looks.length - 1];
    if (look !== newest || fit.score > look.best - fallen || fit.trusted > alike || fit.share < 0.6) return;
    const { template: size, shape } = this.options;
    const at = { x: this.current[2] / this.current[8], y: this.current[5] / this.current[8] };
    const template = cutTemplate(this.kernels, picture, at, size, shape);
    const fromKey = multiply(translation(-template.centre.x, -template.centre.y), this.current);
    this.looks.push({ template, fromKey, drawn: null, exposure: null, best: 0, recent: [] });
    if (this.looks.length > 1 + mostLooks) this.drop(this.looks.splice(1, 1)[0]);
    this.active = this.looks[this.looks.length - 1];
  }

  private drop(look: Look): void {
    freeTemplate(this.kernels, look.template);
    if (look.drawn) this.kernels.free(look.drawn.search.at, look.drawn.search.bytes);
  }

  /** From one frame to the next nothing turns or grows by more than a little. */
  private plausible(next: Mat3): boolean {
    const before = turnAt(this.current, 0, 0);
    const after = turnAt(next, 0, 0);
    const ratio = after.scale / before.scale;
    const angle = Math.abs(after.rotation - before.rotation);
    return ratio > 0.96 && ratio < 1.04 && Math.min(angle, 2 * Math.PI - angle) < 0.1;
  }
}

/** The rectangle of an area that the template stays inside. */
interface Inner {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** 1 when no other place looks alike; falls to 0.7 when a rival is as good: doubtful, but not lost by that alone. */
function certainty(best: Peak, rival: Peak | undefined): number {
  if (!rival) return 1;
  const lead = (best.score - rival.score) / rivalMargin;
  return Math.min(Math.max(0.7 + 0.3 * lead, 0.7), 1);
}
