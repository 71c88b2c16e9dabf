import { Reason } from './sample-reason.js';

/** How a sample came to be. The numbers are stored in files; never renumber them. */
export const SampleState = { none: 0, placed: 1, tracked: 2, bridged: 3, lost: 4 } as const;
export type SampleState = (typeof SampleState)[keyof typeof SampleState];

export const sampleStateNames = ['none', 'placed', 'tracked', 'bridged', 'lost'] as const;
export type SampleStateName = (typeof sampleStateNames)[number];

/** One track at one frame. Position in clip pixels (corner origin), rotation in radians, confidence 0–1. */
export interface Sample {
  x: number;
  y: number;
  confidence: number;
  rotation: number;
  scale: number;
  state: SampleState;
  /** Why it is doubtful, bridged or lost. */
  reason?: Reason;
}

/** What a frame without a sample holds. */
export const noSample: Readonly<Sample> = {
  ...{ x: 0, y: 0, confidence: 0, rotation: 0, scale: 1 },
  ...{ state: SampleState.none, reason: Reason.none },
};

/** True when the sample says where the feature is; false for a gap and for `lost`. */
export const isFound = (state: SampleState): boolean =>
  state === SampleState.placed || state === SampleState.tracked || state === SampleState.bridged;

/** Frames to a page: samples are stored and sent a page at a time. */
export const pageLength = 256;
const pageBytes = pageLength * (8 + 8 + 4 + 4 + 4 + 1);
/** State and reason share a byte. */
const stateBits = 4;

/** The samples of one track over a whole clip, a column per number. */
export class Samples {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly confidence: Float32Array;
  readonly rotation: Float32Array;
  readonly scale: Float32Array;
  readonly state: Uint8Array;
  readonly reason: Uint8Array;

  constructor(readonly frames: number) {
    this.x = new Float64Array(frames);
    this.y = new Float64Array(frames);
    this.confidence = new Float32Array(frames);
    this.rotation = new Float32Array(frames);
    this.scale = new Float32Array(frames).fill(1);
    this.state = new Uint8Array(frames);
    this.reason = new Uint8Array(frames);
  }

  get(frame: number): Sample | null {
    if (!this.state[frame]) return null;
    return {
      x: this.x[frame],
      y: this.y[frame],
      confidence: this.confidence[frame],
      rotation: this.rotation[frame],
      scale: this.scale[frame],
      state: this.state[frame] as SampleState,
      reason: this.reason[frame] as Reason,
    };
  }

  /** Where the track stands on a frame; meaningless where it has no sample. */
  place(frame: number): Pick<Sample, 'x' | 'y' | 'rotation' | 'scale'> {
    return {
      x: this.x[frame],
      y: this.y[frame],
      rotation: this.rotation[frame],
      scale: this.scale[frame],
    };
  }

  set(frame: number, sample: Sample): void {
    this.x[frame] = sample.x;
    this.y[frame] = sample.y;
    this.confidence[frame] = sample.confidence;
    this.rotation[frame] = sample.rotation;
    this.scale[frame] = sample.scale;
    this.state[frame] = sample.state;
    this.reason[frame] = sample.reason ?? Reason.none;
  }

  copy(): Samples {
    const copy = new Samples(this.frames);
    for (const column of ['x', 'y', 'confidence', 'rotation', 'scale', 'state', 'reason'] as const)
      copy[column].set(this[column]);
    return copy;
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

  /** One page as bytes: the columns one after another, little-endian. Null when no frame of it has a sample. */
  packPage(page: number): Uint8Array | null {
    const from = page * pageLength;
    const to = Math.min(from + pageLength, this.frames);
    if (!this.state.subarray(from, to).some(Boolean)) return null;
    const bytes = new Uint8Array(pageBytes);
    const view = new DataView(bytes.buffer);
    for (let i = 0; i < to - from; i++) {
      const k = from + i;
      view.setFloat64(i * 8, this.x[k], true);
      view.setFloat64((pageLength + i) * 8, this.y[k], true);
      view.setFloat32((pageLength * 4 + i) * 4, this.confidence[k], true);
      view.setFloat32((pageLength * 5 + i) * 4, this.rotation[k], true);
      view.setFloat32((pageLength * 6 + i) * 4, this.scale[k], true);
      bytes[pageLength * 28 + i] = this.state[k] | (this.reason[k] << stateBits);
    }
    return bytes;
  }

  /** Reads what `packPage` wrote. Throws a RangeError when the bytes are not a page. */
  unpackPage(page: number, bytes: Uint8Array | null): void {
    const from = page * pageLength;
    const to = Math.min(from + pageLength, this.frames);
    if (bytes === null) {
      for (let k = from; k < to; k++) this.clear(k);
      return;
    }
    if (bytes.byteLength !== pageBytes) throw new RangeError('These bytes are not a page of samples.');
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    for (let i = 0; i < to - from; i++) {
      const told = bytes[pageLength * 28 + i];
      this.set(from + i, {
        x: view.getFloat64(i * 8, true),
        y: view.getFloat64((pageLength + i) * 8, true),
        confidence: view.getFloat32((pageLength * 4 + i) * 4, true),
        rotation: view.getFloat32((pageLength * 5 + i) * 4, true),
        scale: view.getFloat32((pageLength * 6 + i) * 4, true),
        state: (told & ((1 << stateBits) - 1)) as SampleState,
        reason: (told >> stateBits) as Reason,
      });
    }
  }
}
