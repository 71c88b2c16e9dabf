import type { TrackSamples } from '../state/track-samples';

export const curveNames = ['x', 'y', 'speed', 'rotation', 'scale', 'confidence'] as const;
export type CurveName = (typeof curveNames)[number];

export const curveUnits: Record<CurveName, string> = {
  x: 'px',
  y: 'px',
  speed: 'px a frame',
  rotation: '°',
  scale: '%',
  confidence: '%',
};

const known = new WeakMap<TrackSamples, Partial<Record<CurveName, Float64Array>>>();

const degrees = 180 / Math.PI;

/** A number of a track for every frame, in the unit that people read; NaN where it has none. Worked out once. */
export function curveOf(samples: TrackSamples, name: CurveName): Float64Array {
  const kept = known.get(samples) ?? {};
  known.set(samples, kept);
  return (kept[name] ??= workOut(samples, name));
}

function workOut(samples: TrackSamples, name: CurveName): Float64Array {
  const { frames } = samples;
  const values = new Float64Array(frames).fill(NaN);
  samples.pages.forEach((page, number) => {
    if (!page) return;
    const from = number * page.frames;
    for (let i = 0; i < page.frames && from + i < frames; i++) {
      const k = from + i;
      if (!samples.found(k)) continue;
      switch (name) {
        case 'x':
        case 'y':
          values[k] = page[name][i];
          break;
        case 'rotation':
          values[k] = degrees * page.rotation[i];
          break;
        case 'scale':
          values[k] = 100 * page.scale[i];
          break;
        case 'confidence':
          values[k] = 100 * page.confidence[i];
          break;
        case 'speed':
          if (k > 0 && samples.found(k - 1))
            values[k] = Math.hypot(page.x[i] - samples.x(k - 1), page.y[i] - samples.y(k - 1));
      }
    }
  });
  return values;
}

/** The least and the greatest of what is seen; null where nothing is. */
export function extentOf(
  curves: readonly Float64Array[],
  first: number,
  last: number,
): [number, number] | null {
  let [low, high] = [Infinity, -Infinity];
  for (const values of curves)
    for (let k = first; k <= last; k++) {
      if (values[k] < low) low = values[k];
      if (values[k] > high) high = values[k];
    }
  return low <= high ? [low, high] : null;
}

/** The frame of a key that is near a place of the chart, pixels; null where none is. */
export function keyAt(
  keys: readonly number[],
  place: (frame: number) => { x: number; y: number },
  at: { x: number; y: number },
  reach = 8,
): number | null {
  let nearest: number | null = null;
  let least = reach;
  for (const key of keys) {
    const p = place(key);
    const distance = Math.hypot(p.x - at.x, p.y - at.y);
    if (distance <= least) [nearest, least] = [key, distance];
  }
  return nearest;
}
