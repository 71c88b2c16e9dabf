import {
  PointPass,
  Reason,
  mapPlane,
  noSample,
  type FollowOptions,
  type Offset,
  type Point,
  type Sample,
  type Samples,
  type SampleState,
  type SceneChange,
  type TrackKernels,
} from '@lurn/core';
import type { Analyser, Look, PassFrame } from '../pass/analyser.js';
import { asPicture, type PictureFormat } from '../pass/pass-picture.js';
import { unpackSamples, type PackedSamples } from './packed-samples.js';
import { sceneMotionOn } from './scene.js';

/** So many tracks are looked at in so many places that the picture is cheaper copied once as a whole, and each is spared pixels. */
const many = 8;

/** Where passes find this analyser. */
export const pointModule = import.meta.url;

/** One track's part of a pass: from `start` to `end`, both included, in the pass's direction. */
export interface Segment {
  run: number;
  start: number;
  end: number;
}

/** A segment, what is followed in it, and how. */
export interface SegmentOrder {
  segment: Segment;
  path: PackedSamples;
  options: FollowOptions;
  offsets: readonly Offset[];
  /** Where the segment does not begin on a key: the frame of a key elsewhere and its picture, which the look is taken from. */
  lent: { key: number; data: Uint8Array; format: PictureFormat } | null;
}

/** A thread's share of the segments of a pass. */
export interface PointOrder {
  segments: SegmentOrder[];
}

/** A sample found on the way; `arrival` where it is what a pass found on a key's frame. */
export interface Finding extends Sample {
  run: number;
  frame: number;
  arrival: boolean;
}

interface Walker {
  segment: Segment;
  pass: PointPass;
  path: Samples;
  keys: readonly number[];
}

/** Follows points along segments of a pass. */
class PointAnalyser implements Analyser {
  private readonly walkers: Walker[];

  constructor(
    private readonly kernels: TrackKernels,
    { segments }: PointOrder,
    private readonly direction: 1 | -1,
  ) {
    sceneMotionOn(kernels).forget();
    this.walkers = segments.map(({ segment, path: packed, options, offsets, lent }) => {
      const path = unpackSamples(packed);
      const pass = new PointPass(kernels, options, path, offsets, segments.length >= many);
      if (lent) pass.startFrom(asPicture(lent.data, lent.format), lent.key, segment.start);
      return { segment, pass, path, keys: path.keys() };
    });
  }

  end(): void {
    this.walkers.forEach(({ pass }) => pass.dispose());
  }

  look({ picture, frame, before, shared }: Look<SceneChange>): Float64Array {
    const { direction, walkers } = this;
    const found: Finding[] = [];
    const due = walkers.filter(
      ({ segment }) => (frame - segment.start) * direction >= 0 && (segment.end - frame) * direction >= 0,
    );
    const isCopied = due.length >= many && picture.wasmAddress === undefined;
    const seen = isCopied ? mapPlane(this.kernels, picture) : picture;
    const isLed = before && due.some(({ pass }) => pass.following);
    const drifts = isLed ? this.drifts(due, before, { picture: seen, frame }) : undefined;
    due.forEach(({ segment: { run, end }, pass, path }, i) => {
      for (const k of pass.look(seen, frame, shared, drifts?.[i])) found.push(finding(run, k, path));
      const arrival = pass.arrivals.get(frame);
      if (arrival) found.push({ ...arrival, run, frame, arrival: true });
      if (frame === end) for (const k of pass.finish()) found.push(finding(run, k, path));
    });
    return packFindings(found);
  }

  /** How the flow between two pictures carries what is followed. */
  private drifts(due: readonly Walker[], before: PassFrame, at: PassFrame): (Point | undefined)[] {
    const middles = due.map(({ pass }) => (pass.following ? pass.middle : null));
    const places = middles.flatMap((m) => (m ? [m.x, m.y] : [-1, -1]));
    const moved = sceneMotionOn(this.kernels).carry(before, at, places);
    return middles.map((m, i) =>
      m && !Number.isNaN(moved[2 * i]) ? { x: moved[2 * i], y: moved[2 * i + 1] } : undefined,
    );
  }

  busyAfter(frame: number): boolean {
    const { direction } = this;
    return this.walkers.some(
      ({ segment: { start, end }, pass, keys }) =>
        (end - frame) * direction > 0 &&
        (pass.following ||
          (start - frame) * direction > 0 ||
          keys.some((k) => (k - frame) * direction > 0 && (end - k) * direction >= 0)),
    );
  }
}

export const begin = (kernels: TrackKernels, order: PointOrder, direction: 1 | -1): Analyser =>
  new PointAnalyser(kernels, order, direction);

function finding(run: number, frame: number, path: Samples): Finding {
  const s = path.get(frame) ?? noSample;
  return {
    run,
    frame,
    x: s.x,
    y: s.y,
    confidence: s.confidence,
    rotation: s.rotation,
    scale: s.scale,
    stretch: s.stretch,
    shear: s.shear,
    tiltX: s.tiltX,
    tiltY: s.tiltY,
    state: s.state,
    reason: s.reason,
    arrival: false,
  };
}

/** Numbers of a finding. */
const width = 14;

function packFindings(found: readonly Finding[]): Float64Array {
  const packed = new Float64Array(width * found.length);
  let at = 0;
  for (const one of found) {
    packed[at++] = one.run;
    packed[at++] = one.frame;
    packed[at++] = one.x;
    packed[at++] = one.y;
    packed[at++] = one.confidence;
    packed[at++] = one.rotation;
    packed[at++] = one.scale;
    packed[at++] = one.stretch ?? 0;
    packed[at++] = one.shear ?? 0;
    packed[at++] = one.tiltX ?? 0;
    packed[at++] = one.tiltY ?? 0;
    packed[at++] = one.state;
    packed[at++] = one.reason ?? Reason.none;
    packed[at++] = one.arrival ? 1 : 0;
  }
  return packed;
}

/** What `look` has found, as it crosses between threads. */
export function unpackFindings(packed: Float64Array): Finding[] {
  return Array.from({ length: packed.length / width }, (_, i) => {
    const [
      run,
      frame,
      x,
      y,
      confidence,
      rotation,
      scale,
      stretch,
      shear,
      tiltX,
      tiltY,
      state,
      reason,
      arrival,
    ] = packed.subarray(width * i);
    return {
      run,
      frame,
      x,
      y,
      confidence,
      rotation,
      scale,
      stretch,
      shear,
      tiltX,
      tiltY,
      state: state as SampleState,
      reason: reason as Reason,
      arrival: arrival === 1,
    };
  });
}
