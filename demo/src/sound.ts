import { randomFrom } from './random.js';

type Sound = (seconds: number) => [number, number];

/** Noise with its high end taken off, one value a call. */
function murmur(seed: number, smoothness: number): () => number {
  const random = randomFrom(seed);
  let level = 0;
  return () => (level += (random() * 2 - 1 - level) * smoothness);
}

const swell = (t: number, hertz: number, phase: number): number =>
  0.5 + 0.5 * Math.sin(2 * Math.PI * (hertz * t + phase));

/** A struck bell: partials that die away, the high ones first. */
function bell(since: number): number {
  if (since < 0) return 0;
  return [
    [523, 1, 1.6],
    [1046, 0.5, 2.6],
    [1412, 0.35, 3.6],
    [2093, 0.2, 5],
  ].reduce(
    (sum, [hertz, size, decay]) =>
      sum + size * Math.exp(-decay * since) * Math.sin(2 * Math.PI * hertz * since),
    0,
  );
}

/** Water against the wall, and the ferry's bell. */
export function quaySound(): Sound {
  const left = murmur(1, 0.06);
  const right = murmur(2, 0.06);
  return (t) => {
    const ring = 0.07 * (bell(t - 1.5) + bell(t - 2.6) + 0.7 * bell(t - 7.2));
    return [
      0.5 * left() * (0.4 + swell(t, 0.31, 0)) + ring,
      0.5 * right() * (0.4 + swell(t, 0.27, 0.4)) + 0.7 * ring,
    ];
  };
}

/** Water along the hull, and the engine of the launch that passes. */
export function crossingSound(): Sound {
  const left = murmur(5, 0.08);
  const right = murmur(6, 0.08);
  return (t) => {
    const near = Math.exp(-(((t - 5) / 2.6) ** 2));
    const engine =
      0.06 * near * Math.max(0, Math.sin(2 * Math.PI * 7.4 * t)) ** 3 * Math.sin(2 * Math.PI * 92 * t);
    return [
      0.5 * left() * (0.5 + swell(t, 0.36, 0.2)) + engine,
      0.5 * right() * (0.5 + swell(t, 0.29, 0.6)) + 0.8 * engine,
    ];
  };
}

/** Crickets, and steps on gravel in time with the walk. */
export function lanternSound(stepsASecond: number): () => Sound {
  return () => {
    const night = murmur(3, 0.02);
    const gravel = murmur(4, 0.5);
    return (t) => {
      const since = (t * stepsASecond) % 1;
      const step = 0.22 * gravel() * Math.exp(-14 * since);
      const chirp =
        Math.sin(2 * Math.PI * 4150 * t) *
        Math.max(0, Math.sin(2 * Math.PI * 17 * t)) *
        ((t * 1.1) % 1 < 0.45 ? 0.018 : 0);
      const air = 0.25 * night();
      return [air + step + chirp, air + step + 0.6 * chirp];
    };
  };
}

/** The landing stage by day: water, gulls far off, and someone who walks past. */
export function windowSound(): Sound {
  const left = murmur(7, 0.05);
  const right = murmur(8, 0.05);
  const boards = murmur(9, 0.4);
  return (t) => {
    const near = Math.exp(-(((t - 4.6) / 1.5) ** 2));
    const step = 0.3 * near * boards() * Math.exp(-16 * ((t * 1.7) % 1));
    const gull = 0.02 * swell(t, 0.17, 0.3) ** 6 * Math.sin(2 * Math.PI * (1450 * t + 60 * Math.sin(11 * t)));
    return [
      0.4 * left() * (0.5 + swell(t, 0.28, 0.1)) + step + gull,
      0.4 * right() * (0.5 + swell(t, 0.33, 0.5)) + 0.8 * step + gull,
    ];
  };
}
