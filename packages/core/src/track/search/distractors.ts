import type { Point } from '../../geometry/mat3.js';

/** Somewhere else in the search box that looks like the point: how far away, and how alike against the point. */
interface Distractor extends Point {
  likeness: number;
}

/** A place less like than this is no danger. */
const noticed = 0.6;
/** One more like than this is a distractor. */
const secondPeak = 0.8;
/** The point is nearer than this share of the way to a distractor, or it may be the distractor. */
const clearly = 0.4;
const doubtful = 0.7;
/** Distractors stay in mind for so many searches. */
const memory = 12;

/** Places that look like the followed point, so that slipping onto one of them is noticed. */
export class Distractors {
  private places: (Distractor & { age: number })[] = [];

  forget(): void {
    this.places = [];
  }

  /** Takes the peaks of a search in, `here` being the point's own. */
  remember(peaks: readonly (Point & { score: number })[], here: Point): void {
    const own = Math.max(
      ...peaks.filter((p) => Math.hypot(p.x - here.x, p.y - here.y) < 3).map((p) => p.score),
      0,
    );
    if (own <= 0) return;
    const fresh = peaks
      .map(({ x, y, score }) => ({ x: x - here.x, y: y - here.y, likeness: score / own, age: 0 }))
      .filter((p) => p.likeness >= noticed && Math.hypot(p.x, p.y) >= 3);
    const old = this.places
      .map(({ x, y, likeness, age }) => ({ x, y, likeness, age: age + 1 }))
      .filter((p) => p.age < memory && !fresh.some((q) => Math.hypot(p.x - q.x, p.y - q.y) < 4));
    this.places = [...fresh, ...old];
  }

  /** How alike the likest other place is, against the point; 0 when there is none. */
  get strongest(): number {
    return Math.max(0, ...this.places.map((p) => p.likeness));
  }

  /** Whether a distractor is no farther away than this, in pixels. */
  within(reach: number): boolean {
    return this.places.some((p) => p.likeness >= secondPeak && Math.hypot(p.x, p.y) <= reach);
  }

  /** 1, or less when a find so far from the prediction may as well be a distractor as the point. */
  ambiguity({ x, y }: Point): number {
    const off = Math.hypot(x, y);
    const confused = this.places.some(
      (p) => p.likeness >= secondPeak && off > clearly * Math.hypot(p.x, p.y) && x * p.x + y * p.y > 0,
    );
    return confused ? doubtful : 1;
  }
}
