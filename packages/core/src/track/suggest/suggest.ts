import { axesOf } from '../../geometry/axes.js';
import type { Point } from '../../geometry/mat3.js';
import { flattenSpline, polygonArea, type ClosedSpline } from '../../geometry/closed-spline.js';
import type { TrackKernels } from '../../kernels/track-kernels.js';
import { readPatch } from '../image/read-patch.js';
import { plainAnalysis, type Analysis, type TrackPicture } from '../image/analysis.js';
import { patchBytes } from '../image/patch.js';
import { cornersIn } from '../image/corners.js';
import type { Size } from '../options.js';
import { searchTemplate } from '../search/correlation-search.js';
import { gradientsOf } from '../template/pixel-set.js';
import type { WarpModel } from '../../geometry/warp-model.js';
import { prepareTemplate } from '../register/prepare-template.js';
import { freeSearchTemplate, turnTemplate } from '../search/search-template.js';
import { freeTemplate } from '../template/types.js';
import { inAreas } from '../areas.js';
import type { Trial } from './trial.js';
import { weakestMode } from '../register/weak-modes.js';

/** How well a place will be followed. */
export interface PlaceScore {
  /** 0–1: exact, followed for certain where it was tried, and without its like. */
  score: number;
  /** Expected error along the least certain direction, pixels. */
  error: number;
  /** The direction it can slide along, radians clockwise from the x axis; null when it cannot. */
  slide: number | null;
  /** How alike the likest other place in the search box is, 0–1. */
  secondPeak: number;
  /** How surely it was followed into the pictures about this one, 0–1; null where none was there to try. */
  tried: number | null;
  /** How far it goes, each frame, from where the whole picture goes, pixels; null where that is not known. */
  relativeVelocity: number | null;
  /** What a box here would not tell of itself, as a disc does not tell how it turns; null when nothing. */
  unseen: 'turn' | 'growth' | null;
}

export interface Suggestion extends Point, PlaceScore {}

export interface SuggestOptions {
  count: number;
  template: Size;
  search: Size;
  /** Places lie in one of these, where given, and in none of those; picture pixels. */
  within?: readonly ClosedSpline[];
  without?: readonly ClosedSpline[];
  analysis?: Analysis;
  /** What the box will be let do; a mere shift when left out. */
  model?: WarpModel;
}

/** Grain that every camera has, grey levels: a picture without any is not trusted to stay so. */
const leastNoise = 1.5;
/** Expected error, in pixels, that is worth a half. */
const halfError = 0.12;
/** With gradients this much weaker along one direction, and this large an error there, it can slide. */
const slippery = 0.04;
const slides = 0.08;
/** Likeness of a distractor from which it begins to count, and what is left of the score beside one just alike. */
const alike = 0.6;
const besideSecondPeak = 0.85;
/** Corners are looked for in cells of so many pixels. */
const cell = 16;
const worthwhile = 0.15;
/** So many places are tried for each that is wanted, and no more than so many besides. */
const triedForEach = 3;
const mostTriedBesides = 150;
/**
 * Good places first, far apart, then nearer together, those that go with the whole picture before those that do not; then
 * poorer ones: by share of the distance that would be even, and score.
 */
const rounds = [
  { apart: 1, score: 0.7, along: true },
  { apart: 0.6, score: 0.7, along: true },
  { apart: 0.4, score: 0.7, along: true },
  { apart: 0.8, score: 0.7 },
  { apart: 0.4, score: 0.7 },
  { apart: 0.8, score: 0.4 },
  { apart: 0.4, score: 0.4 },
  { apart: 0, score: 0.7 },
  { apart: 0, score: worthwhile },
];
/** Share of the picture's size. */
const awayFromBorder = 0.03;
/** This share of the picture's width a frame, in pixels at least so much, is a way of its own. */
const ownMotion = 1 / 1920;
const leastOwnWay = 0.7;

/** Scores a place, corner-origin pixels, for boxes of these sizes; with a trial, by how it is followed, too. */
export function judgePlace(
  kernels: TrackKernels,
  picture: TrackPicture,
  at: Point,
  {
    template: size,
    search,
    analysis = plainAnalysis,
    model = 'translation',
  }: Pick<SuggestOptions, 'template' | 'search' | 'analysis' | 'model'>,
  trial?: Trial,
): PlaceScore {
  const template = prepareTemplate(kernels, picture, at, size, model, analysis);
  const { width, height } = template.full;
  const { xx, xy, yy } = momentsOf(gradientsOf(kernels, template.full));
  // Grain makes gradients too.
  const noise = Math.max(template.grain, leastNoise ** 2);
  const grain = template.gradientNoise * width * height;
  const { least: weakest, most, angle } = axesOf(xx, xy, yy);
  const least = Math.max(weakest - grain, 0);
  const error = least > 0 ? Math.sqrt((2 * noise) / least) : Infinity;
  const canSlide = error > slides && least < slippery * most;
  const slide = canSlide ? angle + Math.PI / 2 : null;

  const reachX = Math.max(2, Math.round((search.width - width) / 2));
  const reachY = Math.max(2, Math.round((search.height - height) / 2));
  const box = { width: width + 2 * reachX, height: height + 2 * reachY };
  const left = Math.floor(at.x) - (width >> 1) - reachX;
  const top = Math.floor(at.y) - (height >> 1) - reachY;
  const scratch = kernels.scratch('judged', patchBytes(box.width, box.height));
  const area = readPatch(kernels, picture, analysis, left, top, box.width, box.height, scratch);
  const wanted = turnTemplate(kernels, template, [1, 0, 0, 0, 1, 0, 0, 0, 1]);
  const others = searchTemplate(kernels, wanted, area, { left: 0, top: 0, ...box })
    .filter((p) => Math.hypot(p.x - reachX, p.y - reachY) >= 3)
    .map((p) => p.score);
  freeSearchTemplate(kernels, wanted);
  freeTemplate(kernels, template);
  const secondPeak = Math.max(0, ...others);
  const exact = 1 / (1 + (error / halfError) ** 2);
  const distinct = Math.min(Math.max((1 - secondPeak) / (1 - alike), 0), 1);
  const score = exact * (besideSecondPeak + (1 - besideSecondPeak) * Math.sqrt(distinct));
  const place = {
    score,
    error,
    slide,
    secondPeak,
    tried: null,
    relativeVelocity: null,
    unseen: weakestMode(template),
  };
  return trial ? tryOut(place, trial, at, { template: size, search, analysis }) : place;
}

/** Second moments of slopes along x and y. */
function momentsOf([gx, gy]: readonly Float32Array[]): { xx: number; xy: number; yy: number } {
  let [xx, xy, yy] = [0, 0, 0];
  for (let i = 0; i < gx.length; i++) {
    xx += gx[i] * gx[i];
    xy += gx[i] * gy[i];
    yy += gy[i] * gy[i];
  }
  return { xx, xy, yy };
}

function tryOut<P extends PlaceScore>(
  place: P,
  trial: Trial,
  { x, y }: Point,
  { template, search, analysis = plainAnalysis }: Pick<SuggestOptions, 'template' | 'search' | 'analysis'>,
): P {
  const found = trial.of({ x, y }, { template, search, analysis });
  return found
    ? {
        ...place,
        tried: found.surely,
        relativeVelocity: found.relativeVelocity,
        score: place.score * found.surely,
      }
    : place;
}

/** Whether so many pixels a frame, in a picture so wide, are a way of its own. */
export const goesItsOwnWay = (relativeVelocity: number, width: number): boolean =>
  relativeVelocity > Math.max(ownMotion * width, leastOwnWay);

/**
 * The best places to follow, well spread, the best first; with a trial, of those that are followed well. What goes its own way
 * is as good to follow, but no help to hold the picture still: such places come after those that go with it.
 */
export function suggestPoints(
  kernels: TrackKernels,
  picture: TrackPicture,
  options: SuggestOptions,
  trial?: Trial,
): Suggestion[] {
  const { count, template } = options;
  const closest = Math.max(template.width, template.height) * 0.75;
  const wanted = trial ? Math.min(triedForEach * count, count + mostTriedBesides) : count;
  const held = spread(kernels, picture, options, wanted, closest);
  const tried = trial ? held.places.map((place) => tryOut(place, trial, place, options)) : held.places;
  const strays = ({ relativeVelocity }: PlaceScore): boolean =>
    relativeVelocity !== null && goesItsOwnWay(relativeVelocity, picture.width);
  const byWorth = (a: Suggestion, b: Suggestion): number =>
    Number(strays(a)) - Number(strays(b)) || b.score - a.score;
  tried.sort(byWorth);
  const even = 0.8 * Math.sqrt(held.scratch / count);
  const chosen: Suggestion[] = [];
  const choices = rounds.flatMap((round) => tried.map((place) => ({ place, ...round })));
  for (const { place, apart, score, along } of choices) {
    if (chosen.length >= count) break;
    const distance = Math.max(apart * even, closest);
    if (place.score < score || (along && strays(place))) continue;
    if (chosen.some((c) => Math.hypot(c.x - place.x, c.y - place.y) < distance)) continue;
    chosen.push(place);
  }
  return chosen.sort(byWorth);
}

/** Places that one picture holds well, spread over where they may lie, and how much room that is, square pixels. */
function spread(
  kernels: TrackKernels,
  picture: TrackPicture,
  options: SuggestOptions,
  count: number,
  closest: number,
): { places: Suggestion[]; scratch: number } {
  const { template, analysis = plainAnalysis } = options;
  const { width, height } = picture;
  const half = { x: template.width / 2 + 2, y: template.height / 2 + 2 };
  // What lies near the border is soon outside.
  const clear = { x: half.x + awayFromBorder * width, y: half.y + awayFromBorder * height };
  const { within = [], without = [] } = options;
  const mayLook = inAreas({ within, without }, Math.min(half.x, half.y));
  const corners = findCorners(kernels, picture, analysis).filter(
    (p) => p.x > clear.x && p.y > clear.y && p.x < width - clear.x && p.y < height - clear.y && mayLook(p),
  );
  const scratch =
    within.length > 0
      ? within.reduce((sum, area) => sum + polygonArea(flattenSpline(area)), 0)
      : width * height;
  const chosen: Suggestion[] = [];
  const judged = new Map<Point, Suggestion>();
  // Far apart first; nearer together where there are too few.
  for (let apart = 0.8 * Math.sqrt(scratch / count); chosen.length < count; apart /= 1.6) {
    const distance = Math.max(apart, closest);
    for (const corner of corners) {
      if (chosen.length >= count) break;
      if (chosen.some((c) => Math.hypot(c.x - corner.x, c.y - corner.y) < distance)) continue;
      const known = judged.get(corner) ?? { ...corner, ...judgePlace(kernels, picture, corner, options) };
      judged.set(corner, known);
      if (known.score >= worthwhile) chosen.push(known);
    }
    if (distance === closest) break;
  }
  return { places: chosen, scratch };
}

/** The best corner of every cell that has one, the best first; corner-origin middles of pixels. */
function findCorners(kernels: TrackKernels, picture: TrackPicture, analysis: Analysis): Point[] {
  const { width, height } = picture;
  const at = kernels.scratch('whole picture', patchBytes(width, height));
  readPatch(kernels, picture, analysis, 0, 0, width, height, at);
  return cornersIn(kernels, at, width, height, cell)
    .filter((c) => c.score > 1)
    .sort((a, b) => b.score - a.score)
    .map(({ x, y }) => ({ x, y }));
}
