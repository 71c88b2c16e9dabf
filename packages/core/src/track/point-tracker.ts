import { cropPlane, type Plane } from '../image/plane.js';
import { refine, type Fit, type Shape } from './refine.js';
import { SampleState, type Sample } from './samples.js';
import { searchTemplate, type Peak } from './search.js';
import { cutTemplate, noTurn, turnedPicture, type Template, type Turn } from './template.js';

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

/** A rival peak this close to the best one makes the match doubtful. */
const rivalMargin = 0.06;
/** How much correlation a peak loses for lying a whole search box away from where it was expected. */
const farPenalty = 0.08;

/**
 * Follows one point from frame to frame. The last frames predict where to look; the template of the
 * latest hand-placed key decides where it is, so that errors do not add up.
 */
export class PointTracker {
  private template: Template | null = null;
  private turn: Turn = noTurn;
  private keyRotation = 0;
  private keyScale = 1;
  private position = { x: 0, y: 0 };
  private velocity = { x: 0, y: 0 };

  constructor(private readonly options: PointTrackerOptions) {}

  get ready(): boolean {
    return this.template !== null;
  }

  /** Takes the box at a hand-placed position as the template from here on. */
  setKey(picture: Plane, key: Pick<Sample, 'x' | 'y' | 'rotation' | 'scale'>): void {
    const { width, height } = this.options.template;
    this.template = cutTemplate(picture, key.x, key.y, width, height);
    this.turn = noTurn;
    this.keyRotation = key.rotation;
    this.keyScale = key.scale;
    this.position = { x: key.x, y: key.y };
  }

  /** Goes on from a sample found earlier, with the template there is. */
  resumeFrom(sample: Pick<Sample, 'x' | 'y' | 'rotation' | 'scale'>): void {
    const angle = sample.rotation - this.keyRotation;
    const size = sample.scale / this.keyScale;
    this.turn = { a: size * Math.cos(angle), b: size * Math.sin(angle) };
    this.position = { x: sample.x, y: sample.y };
    this.velocity = { x: 0, y: 0 };
  }

  /** Looks for the point in the next picture in the direction of travel. */
  step(picture: Plane): Sample {
    const template = this.template;
    if (!template) throw new Error('A point tracker needs a key before it can follow.');
    const expected = { x: this.position.x + this.velocity.x, y: this.position.y + this.velocity.y };
    const fit = this.find(template, picture, expected);
    const confidence = fit ? Math.min(Math.max(fit.score * fit.certainty, 0), 1) : 0;
    if (!fit || confidence < this.options.threshold) {
      this.velocity = { x: 0, y: 0 };
      return { ...expected, confidence, ...this.pose(), state: SampleState.lost };
    }
    this.turn = fit.turn;
    const { a, b } = fit.turn;
    const { offset } = template;
    const found = { x: fit.x + a * offset.x - b * offset.y, y: fit.y + b * offset.x + a * offset.y };
    this.velocity = { x: found.x - this.position.x, y: found.y - this.position.y };
    this.position = found;
    return { ...this.position, confidence, ...this.pose(), state: SampleState.tracked };
  }

  private pose(): { rotation: number; scale: number } {
    const { a, b } = this.turn;
    return { rotation: this.keyRotation + Math.atan2(b, a), scale: this.keyScale * Math.hypot(a, b) };
  }

  private find(
    template: Template,
    picture: Plane,
    expected: { x: number; y: number },
  ): (Fit & { certainty: number }) | null {
    const { width, height } = template;
    const reachX = Math.max(2, Math.round((this.options.search.width - width) / 2));
    const reachY = Math.max(2, Math.round((this.options.search.height - height) / 2));
    const left = Math.floor(expected.x) - (width >> 1) - reachX;
    const top = Math.floor(expected.y) - (height >> 1) - reachY;
    if (left + width + 2 * reachX <= 0 || top + height + 2 * reachY <= 0) return null;
    if (left >= picture.width || top >= picture.height) return null;
    const area = cropPlane(picture, left, top, width + 2 * reachX, height + 2 * reachY);
    const peaks = searchTemplate(turnedPicture(template, this.turn), area);
    if (peaks.length === 0) return null;

    const ranked = peaks.map((peak) => ({
      ...peak,
      worth: peak.score - farPenalty * Math.hypot((peak.x - reachX) / reachX, (peak.y - reachY) / reachY),
    }));
    ranked.sort((p, q) => q.worth - p.worth);
    const [best, rival] = ranked;
    const start: Fit = {
      x: left + best.x + (width >> 1) + 0.5,
      y: top + best.y + (height >> 1) + 0.5,
      turn: this.turn,
      score: best.score,
    };
    const fit = this.settle(template, picture, start);
    return fit && { ...fit, certainty: certainty(best, rival) };
  }

  /** The finest fit that improves on the whole-pixel one: the full shape, else a shift alone. */
  private settle(template: Template, picture: Plane, start: Fit): Fit | null {
    const full = refine(template, picture, start, this.options.shape);
    if (full && full.score >= start.score - 0.02 && this.plausible(full.turn)) return full;
    return refine(template, picture, start, 'shift');
  }

  /** From one frame to the next nothing turns or grows by more than a little. */
  private plausible(turn: Turn): boolean {
    const ratio = Math.hypot(turn.a, turn.b) / Math.hypot(this.turn.a, this.turn.b);
    const angle = Math.atan2(
      turn.b * this.turn.a - turn.a * this.turn.b,
      turn.a * this.turn.a + turn.b * this.turn.b,
    );
    return ratio > 0.96 && ratio < 1.04 && Math.abs(angle) < 0.1;
  }
}

/** 1 when no other place looks alike; falls to 0.7 when a rival is as good: doubtful, but not lost by that alone. */
function certainty(best: Peak, rival: Peak | undefined): number {
  if (!rival) return 1;
  const lead = (best.score - rival.score) / rivalMargin;
  return Math.min(Math.max(0.7 + 0.3 * lead, 0.7), 1);
}
