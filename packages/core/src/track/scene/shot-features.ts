import type { Samples } from '../samples.js';
import type { ShotFrame } from './shot-tracker.js';

/**
 * What was followed in one shot, frame by frame: the samples of frame `first + k` are those from `starts[k]` up to
 * `starts[k + 1]`. Features are numbered from 0 in the order they were first seen.
 */
export interface ShotFeatures {
  first: number;
  last: number;
  features: number;
  starts: Int32Array;
  feature: Int32Array;
  /** x, y; x, y; … clip pixels made square. */
  places: Float64Array;
  /** The feature's number in the clip. */
  ids: Int32Array;
  /** On how many frames each was seen. */
  seen: Int32Array;
}

/** Gathers what a shot tracker has settled, shot by shot. */
export class SceneFeatures {
  private readonly frames: ShotFrame[][] = [];

  add(frames: readonly ShotFrame[]): void {
    for (const frame of frames) (this.frames[frame.shot] ??= []).push(frame);
  }

  get count(): number {
    return this.frames.reduce((sum, shot) => sum + shot.length, 0);
  }

  /** The shots that there are, in order; `pixelAspect` is a pixel's width over its height. */
  shots(pixelAspect = 1): ShotFeatures[] {
    return this.frames.filter((shot) => shot.length > 0).map((shot) => shotOf(shot, pixelAspect));
  }
}

function shotOf(frames: readonly ShotFrame[], pixelAspect: number): ShotFeatures {
  const samples = frames.reduce((sum, { ids }) => sum + ids.length, 0);
  const starts = new Int32Array(frames.length + 1);
  const feature = new Int32Array(samples);
  const places = new Float64Array(2 * samples);
  const known = new Map<number, number>();
  const seen: number[] = [];
  let at = 0;
  frames.forEach((frame, k) => {
    starts[k] = at;
    frame.ids.forEach((id, i) => {
      let index = known.get(id);
      if (index === undefined) {
        index = known.size;
        known.set(id, index);
        seen.push(0);
      }
      seen[index]++;
      feature[at] = index;
      places[2 * at] = frame.places[2 * i] * pixelAspect;
      places[2 * at + 1] = frame.places[2 * i + 1];
      at++;
    });
  });
  starts[frames.length] = at;
  return {
    first: frames[0].frame,
    last: frames[frames.length - 1].frame,
    features: known.size,
    starts,
    feature,
    places,
    ids: Int32Array.from(known.keys()),
    seen: Int32Array.from(seen),
  };
}

/** A shot with some of its features only, numbered in the order given. */
export function restrict(shot: ShotFeatures, to: ArrayLike<number>): ShotFeatures {
  const number = new Int32Array(shot.features).fill(-1);
  let samples = 0;
  for (let i = 0; i < to.length; i++) {
    number[to[i]] = i;
    samples += shot.seen[to[i]];
  }
  const starts = new Int32Array(shot.starts.length);
  const feature = new Int32Array(samples);
  const places = new Float64Array(2 * samples);
  let at = 0;
  for (let k = 0; k + 1 < shot.starts.length; k++) {
    starts[k] = at;
    for (let s = shot.starts[k]; s < shot.starts[k + 1]; s++) {
      const f = number[shot.feature[s]];
      if (f < 0) continue;
      feature[at] = f;
      places[2 * at] = shot.places[2 * s];
      places[2 * at + 1] = shot.places[2 * s + 1];
      at++;
    }
  }
  starts[shot.starts.length - 1] = at;
  return {
    first: shot.first,
    last: shot.last,
    features: to.length,
    starts,
    feature,
    places,
    ids: Int32Array.from(to, (f) => shot.ids[f]),
    seen: Int32Array.from(to, (f) => shot.seen[f]),
  };
}

/** Tracks as the features of one shot, in their order. */
export function featuresOfTracks(tracks: readonly Samples[], frames: number): ShotFeatures {
  const starts = new Int32Array(frames + 1);
  const feature: number[] = [];
  const places: number[] = [];
  const seen = new Int32Array(tracks.length);
  for (let k = 0; k < frames; k++) {
    tracks.forEach((track, i) => {
      if (!track.found(k)) return;
      feature.push(i);
      places.push(track.x[k], track.y[k]);
      seen[i]++;
    });
    starts[k + 1] = feature.length;
  }
  return {
    first: 0,
    last: frames - 1,
    features: tracks.length,
    starts,
    feature: Int32Array.from(feature),
    places: Float64Array.from(places),
    ids: Int32Array.from(tracks.keys()),
    seen,
  };
}
