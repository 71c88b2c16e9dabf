import { apply, type Point } from '../geometry/mat3.js';
import { identityPose, poseMatrix, type Pose } from '../geometry/pose.js';
import { Reason } from './sample-reason.js';

/** How a sample came to be. The numbers are stored in files; never renumber them. */
export const SampleState = { none: 0, placed: 1, tracked: 2, bridged: 3, lost: 4 } as const;
export type SampleState = (typeof SampleState)[keyof typeof SampleState];

export const sampleStateNames = ['none', 'placed', 'tracked', 'bridged', 'lost'] as const;
export type SampleStateName = (typeof sampleStateNames)[number];

/** Where a track stands: a pose, but for x and y, which are in clip pixels (corner origin). */
export type Place = Pose;

/** What a track has always told of its place: the rest is 0 where nothing else is said. */
export type PlaceGiven = Pick<Place, 'x' | 'y' | 'rotation' | 'scale'> & Partial<Place>;

/** The whole of a place. */
export const placeIn = (given: PlaceGiven): Place => ({
  x: given.x,
  y: given.y,
  rotation: given.rotation,
  scale: given.scale,
  stretch: given.stretch ?? 0,
  shear: given.shear ?? 0,
  tiltX: given.tiltX ?? 0,
  tiltY: given.tiltY ?? 0,
});

/** One track at one frame; confidence 0–1. */
export interface Sample extends PlaceGiven {
  confidence: number;
  state: SampleState;
  /** Why it is doubtful, bridged or lost. */
  reason?: Reason;
}

/** What a frame without a sample holds. */
export const noSample: Readonly<Sample> = {
  ...identityPose,
  confidence: 0,
  state: SampleState.none,
  reason: Reason.none,
};

/** True when the sample says where the feature is; false for a gap and for `lost`. */
export const isFound = (state: SampleState): boolean =>
  state === SampleState.placed || state === SampleState.tracked || state === SampleState.bridged;

/** Frames to a page: samples are stored and sent a page at a time. */
export const pageLength = 256;

/** Columns of samples, as pages have them one after another: doubles, floats, bytes. */
const doubleColumns = ['x', 'y'] as const;
const floatColumns = ['confidence', 'rotation', 'scale', 'stretch', 'shear', 'tiltX', 'tiltY'] as const;
const byteColumns = ['state', 'reason'] as const;
const columns = [...doubleColumns, ...floatColumns, ...byteColumns];

/** What pages say first: their version, in two bytes, and six that are kept free. */
const pageVersion = 2;
const pageHeader = 8;
const pageBytes =
  pageHeader + pageLength * (8 * doubleColumns.length + 4 * floatColumns.length + byteColumns.length);

/** Pages of the first version say nothing of it: no stretch and no tilt, and state and reason share a byte. */
const firstPageBytes = pageLength * (8 + 8 + 4 + 4 + 4 + 1);
const firstStateBits = 4;

/** The samples of one track over a whole clip, a column per number. */
export class Samples {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly confidence: Float32Array;
  readonly rotation: Float32Array;
  readonly scale: Float32Array;
  readonly stretch: Float32Array;
  readonly shear: Float32Array;
  readonly tiltX: Float32Array;
  readonly tiltY: Float32Array;
  readonly state: Uint8Array;
  readonly reason: Uint8Array;
  /**
   * Of a flat thing that is followed whole: the corners of its quad, from its place on the frame that it was drawn on, clip
   * pixels. Null for a point.
   */
  corners: readonly Point[] | null = null;

  constructor(readonly frames: number) {
    this.x = new Float64Array(frames);
    this.y = new Float64Array(frames);
    this.confidence = new Float32Array(frames);
    this.rotation = new Float32Array(frames);
    this.scale = new Float32Array(frames).fill(1);
    this.stretch = new Float32Array(frames);
    this.shear = new Float32Array(frames);
    this.tiltX = new Float32Array(frames);
    this.tiltY = new Float32Array(frames);
    this.state = new Uint8Array(frames);
    this.reason = new Uint8Array(frames);
  }

  // Spelled out, as in all that runs for every sample: going through columns by name costs more.

  get(frame: number): (Sample & Place) | null {
    if (!this.state[frame]) return null;
    return {
      x: this.x[frame],
      y: this.y[frame],
      confidence: this.confidence[frame],
      rotation: this.rotation[frame],
      scale: this.scale[frame],
      stretch: this.stretch[frame],
      shear: this.shear[frame],
      tiltX: this.tiltX[frame],
      tiltY: this.tiltY[frame],
      state: this.state[frame] as SampleState,
      reason: this.reason[frame] as Reason,
    };
  }

  /** Where the track stands on a frame; meaningless where it has no sample. */
  place(frame: number): Place {
    return {
      x: this.x[frame],
      y: this.y[frame],
      rotation: this.rotation[frame],
      scale: this.scale[frame],
      stretch: this.stretch[frame],
      shear: this.shear[frame],
      tiltX: this.tiltX[frame],
      tiltY: this.tiltY[frame],
    };
  }

  set(frame: number, sample: Sample): void {
    this.x[frame] = sample.x;
    this.y[frame] = sample.y;
    this.confidence[frame] = sample.confidence;
    this.rotation[frame] = sample.rotation;
    this.scale[frame] = sample.scale;
    this.stretch[frame] = sample.stretch ?? 0;
    this.shear[frame] = sample.shear ?? 0;
    this.tiltX[frame] = sample.tiltX ?? 0;
    this.tiltY[frame] = sample.tiltY ?? 0;
    this.state[frame] = sample.state;
    this.reason[frame] = sample.reason ?? Reason.none;
  }

  copy(): Samples {
    const copy = new Samples(this.frames);
    for (const column of columns) copy[column].set(this[column]);
    copy.corners = this.corners;
    return copy;
  }

  /** Where the corners are on a frame, clip pixels, where a pixel's width is `aspect` times its height. */
  cornersAt(frame: number, aspect = 1): Point[] {
    const place = this.place(frame);
    const matrix = poseMatrix({ ...place, x: place.x * aspect });
    return (this.corners ?? []).map(({ x, y }) => {
      const p = apply(matrix, x * aspect, y);
      return { x: p.x / aspect, y: p.y };
    });
  }

  clear(frame: number): void {
    this.set(frame, noSample);
  }

  /** True when the frame's position may be used. */
  found(frame: number): boolean {
    return isFound(this.state[frame] as SampleState);
  }

  /** The frames placed by hand, in order. */
  keys(): number[] {
    const keys: number[] = [];
    for (let k = 0; k < this.frames; k++) if (this.state[k] === SampleState.placed) keys.push(k);
    return keys;
  }

  /** First and last frame with a usable position, or null when there is none. */
  extent(): { first: number; last: number } | null {
    let first = 0;
    while (first < this.frames && !this.found(first)) first++;
    if (first === this.frames) return null;
    let last = this.frames - 1;
    while (!this.found(last)) last--;
    return { first, last };
  }

  get pages(): number {
    return Math.ceil(this.frames / pageLength);
  }

  /** One page as bytes: its version, then the columns one after another, little-endian. Null when it has no sample. */
  packPage(page: number): Uint8Array | null {
    const from = page * pageLength;
    const to = Math.min(from + pageLength, this.frames);
    if (!this.state.subarray(from, to).some(Boolean)) return null;
    const bytes = new Uint8Array(pageBytes);
    const view = new DataView(bytes.buffer);
    view.setUint16(0, pageVersion, true);
    let at = pageHeader;
    for (const column of doubleColumns) {
      const values = this[column];
      for (let k = from; k < to; k++) view.setFloat64(at + 8 * (k - from), values[k], true);
      at += 8 * pageLength;
    }
    for (const column of floatColumns) {
      const values = this[column];
      for (let k = from; k < to; k++) view.setFloat32(at + 4 * (k - from), values[k], true);
      at += 4 * pageLength;
    }
    for (const column of byteColumns) {
      bytes.set(this[column].subarray(from, to), at);
      at += pageLength;
    }
    return bytes;
  }

  /** Reads what `packPage` wrote, of the first version too. Throws a RangeError when the bytes are no such page. */
  unpackPage(page: number, bytes: Uint8Array | null): void {
    const from = page * pageLength;
    const to = Math.min(from + pageLength, this.frames);
    if (bytes === null) {
      for (let k = from; k < to; k++) this.clear(k);
      return;
    }
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    if (bytes.byteLength === firstPageBytes) {
      this.unpackFirst(from, to, bytes, view);
      return;
    }
    if (bytes.byteLength !== pageBytes || view.getUint16(0, true) !== pageVersion)
      throw new RangeError('These bytes are not a page of samples, or one of a newer Lurn.');
    let at = pageHeader;
    for (const column of doubleColumns) {
      const values = this[column];
      for (let k = from; k < to; k++) values[k] = view.getFloat64(at + 8 * (k - from), true);
      at += 8 * pageLength;
    }
    for (const column of floatColumns) {
      const values = this[column];
      for (let k = from; k < to; k++) values[k] = view.getFloat32(at + 4 * (k - from), true);
      at += 4 * pageLength;
    }
    for (const column of byteColumns) {
      this[column].set(bytes.subarray(at, at + to - from), from);
      at += pageLength;
    }
  }

  private unpackFirst(from: number, to: number, bytes: Uint8Array, view: DataView): void {
    for (let i = 0; i < to - from; i++) {
      const told = bytes[pageLength * 28 + i];
      this.set(from + i, {
        x: view.getFloat64(i * 8, true),
        y: view.getFloat64((pageLength + i) * 8, true),
        confidence: view.getFloat32((pageLength * 4 + i) * 4, true),
        rotation: view.getFloat32((pageLength * 5 + i) * 4, true),
        scale: view.getFloat32((pageLength * 6 + i) * 4, true),
        state: (told & ((1 << firstStateBits) - 1)) as SampleState,
        reason: (told >> firstStateBits) as Reason,
      });
    }
  }
}

/** Frames of two pages, by their places in them, on which anything differs. Null stands for a page without a sample. */
export function differingSamples(one: Uint8Array | null, other: Uint8Array | null): number[] {
  const [a, b] = [one, other].map((bytes) => {
    const samples = new Samples(pageLength);
    samples.unpackPage(0, bytes);
    return samples;
  });
  const differing: number[] = [];
  for (let k = 0; k < pageLength; k++)
    // Frames without a sample are alike, whatever their numbers are.
    if ((a.state[k] || b.state[k]) && columns.some((column) => a[column][k] !== b[column][k]))
      differing.push(k);
  return differing;
}
