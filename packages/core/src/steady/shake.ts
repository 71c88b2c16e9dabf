import type { FrameTimes } from '../geometry/frame-times.js';
import { outputPlace, type Placing } from '../framing/framing.js';
import type { FeaturePages } from '../track/scene/scene-pages.js';
import type { ShotSummary } from '../track/scene/scene-summary.js';
import type { SceneChoice } from '../solve/hold-group.js';
import { smoothGaussian } from './smooth.js';

/** Where a feature was seen on frames that follow each other: x, y; x, y; … clip pixels. */
export interface FeaturePath {
  first: number;
  places: Float64Array;
}

/** What shakes, on features that no solve has seen, in the source and as it is seen in the output; output pixels. */
export interface ShakeReport {
  /** How many stretches of features it was measured on. */
  paths: number;
  /** RMS distance of features from their own paths, smoothed. */
  before: number;
  after: number;
  /** By frequency, the amplitude of what a feature does about its straight way, RMS over features and both directions. */
  spectrum: { hertz: number; before: number; after: number }[];
}

/** What is slower than this, as the standard deviation of a Gaussian in seconds, is a move and no shake. */
const moveSeconds = 0.5;
const longestWindow = 64;
const shortestPath = 16;

/** The stretches over which features of what is held were seen that are kept out of every solve. */
export function heldOutPaths(
  features: FeaturePages,
  shots: readonly ShotSummary[],
  choices: readonly SceneChoice[],
): FeaturePath[] {
  const paths: FeaturePath[] = [];
  shots.forEach((shot, s) => {
    // A depth by hand is a place between groups: the first stands for them.
    const choice = choices.at(s);
    const group = choice && choice.depth === null ? choice.group : 0;
    const open = new Map<number, { first: number; next: number; places: number[] }>();
    const close = ({ first, places }: { first: number; places: number[] }): void => {
      if (places.length >= 2 * shortestPath) paths.push({ first, places: Float64Array.from(places) });
    };
    for (let frame = shot.first; frame <= shot.last; frame++)
      for (const { id, heldOut, group: own, x, y } of features.on(frame)) {
        if (!heldOut || own !== group) continue;
        const known = open.get(id);
        if (known?.next === frame) {
          known.places.push(x, y);
          known.next++;
          continue;
        }
        if (known) close(known);
        open.set(id, { first: frame, next: frame + 1, places: [x, y] });
      }
    open.forEach(close);
  });
  return paths;
}

/** Measures what shakes before and after. Null where too little was seen of anything to tell. */
export function shakeOf(
  paths: readonly FeaturePath[],
  placing: Placing,
  { framesPerSecond }: FrameTimes,
  range: { first: number; last: number },
): ShakeReport | null {
  const parts = paths.flatMap((path) => within(path, range));
  if (parts.length === 0) return null;
  const length = Math.max(...parts.map(({ places }) => places.length / 2));
  const window = 2 ** Math.floor(Math.log2(Math.min(length, longestWindow)));
  const [before, after] = [new Shaking(window, framesPerSecond), new Shaking(window, framesPerSecond)];
  for (const { first, places } of parts) {
    const n = places.length / 2;
    const seen = [0, 1].map(() => new Float64Array(n));
    const source = [0, 1].map(() => new Float64Array(n));
    for (let i = 0; i < n; i++) {
      const [x, y] = [places[2 * i], places[2 * i + 1]];
      const at = outputPlace(placing, first + i, { x, y });
      [source[0][i], source[1][i], seen[0][i], seen[1][i]] = [x, y, at.x, at.y];
    }
    source.forEach((column) => before.add(column));
    seen.forEach((column) => after.add(column));
  }
  const [one, other] = [before.spectrum(), after.spectrum()];
  return {
    paths: parts.length,
    before: before.rms(),
    after: after.rms(),
    spectrum: one.map((amplitude, i) => ({
      hertz: ((i + 1) * framesPerSecond) / window,
      before: amplitude,
      after: other[i],
    })),
  };
}

/** The part of a path that lies in a range, where it is long enough. */
function within({ first, places }: FeaturePath, range: { first: number; last: number }): FeaturePath[] {
  const from = Math.max(range.first - first, 0);
  const to = Math.min(range.last - first + 1, places.length / 2);
  return to - from < shortestPath ? [] : [{ first: first + from, places: places.subarray(2 * from, 2 * to) }];
}

/** Gathers what columns do about their smoothed selves, and their spectra (Welch 1967: Hann windows, overlapping by half). */
class Shaking {
  private squares = 0;
  private count = 0;
  private readonly power: Float64Array;
  private windows = 0;

  constructor(
    private readonly window: number,
    private readonly framesPerSecond: number,
  ) {
    this.power = new Float64Array(window / 2);
  }

  add(column: Float64Array): void {
    const smooth = smoothGaussian(column, moveSeconds * this.framesPerSecond);
    column.forEach((value, i) => (this.squares += (value - smooth[i]) ** 2));
    this.count += column.length;
    for (let from = 0; from + this.window <= column.length; from += this.window / 2)
      this.addWindow(column.subarray(from, from + this.window));
  }

  /** RMS distance in the plane: of both directions together. */
  rms(): number {
    return Math.sqrt((2 * this.squares) / Math.max(this.count, 1));
  }

  /** Amplitudes from the lowest frequency up. */
  spectrum(): number[] {
    return Array.from(this.power, (sum) => Math.sqrt((2 * sum) / Math.max(this.windows, 1)));
  }

  private addWindow(values: Float64Array): void {
    const n = this.window;
    const level = values.reduce((sum, value) => sum + value, 0) / n;
    const middle = (n - 1) / 2;
    let [rise, spread] = [0, 0];
    values.forEach((value, i) => {
      rise += (i - middle) * (value - level);
      spread += (i - middle) ** 2;
    });
    rise /= spread;
    this.windows++;
    for (let f = 1; f <= n / 2; f++) {
      let [re, im] = [0, 0];
      for (let i = 0; i < n; i++) {
        const hann = 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / n);
        const value = hann * (values[i] - level - rise * (i - middle));
        re += value * Math.cos((2 * Math.PI * f * i) / n);
        im += value * Math.sin((2 * Math.PI * f * i) / n);
      }
      // Hann's window passes half of an amplitude.
      this.power[f - 1] += (re * re + im * im) * (4 / n) ** 2 * 0.5;
    }
  }
}
