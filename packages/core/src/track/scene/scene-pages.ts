import { matrixAt, type Mat3, type Point } from '../../geometry/mat3.js';
import { motionModels, type MotionModel } from '../../solve/fit-model.js';
import type { FrameSpan, ShotGroups } from './motion-group.js';
import type { ShotFeatures } from './shot-features.js';

/** Frames to a page. */
export const motionPageLength = 256;

const numbersOfGroup = 9 * motionModels.length;

/** Numbers to a frame of a shot: the matrices of each group by each model, then the slide of a depth of 1. */
const numbersOf = ({ groups }: { groups: readonly unknown[] }): number => numbersOfGroup * groups.length + 2;

/** A shot as far as its motions are laid out: its frames, and how many groups it has. */
export interface ShotLayout extends FrameSpan {
  groups: readonly unknown[];
}

/**
 * The motions of the groups of every shot, packed a page of frames at a time: 64-bit floats, little-endian, frame after frame.
 * Matrices lead from the shot's first frame to each, in square pixels.
 */
export class SceneMotions {
  /** A table for each shot, frame after frame. */
  private readonly tables: Float64Array[];

  constructor(readonly shots: readonly ShotLayout[]) {
    this.tables = shots.map((shot) => new Float64Array(numbersOf(shot) * (shot.last - shot.first + 1)));
  }

  /** Of what has just been found. */
  static of(shots: readonly ShotGroups[]): SceneMotions {
    const motions = new SceneMotions(shots);
    shots.forEach((shot, s) => {
      const table = motions.tables[s];
      const numbers = numbersOf(shot);
      for (let k = 0; k <= shot.last - shot.first; k++) {
        shot.groups.forEach(({ models }, g) =>
          motionModels.forEach((model, m) =>
            table.set(
              models[model].matrices.subarray(9 * k, 9 * (k + 1)),
              k * numbers + g * numbersOfGroup + 9 * m,
            ),
          ),
        );
        if (shot.depthPath) table.set(shot.depthPath.subarray(2 * k, 2 * k + 2), (k + 1) * numbers - 2);
      }
    });
    return motions;
  }

  matrix(shot: number, frame: number, group: number, model: MotionModel): Mat3 {
    const { first, groups } = this.shots[shot];
    const at =
      (frame - first) * numbersOf({ groups }) + group * numbersOfGroup + 9 * motionModels.indexOf(model);
    return matrixAt(this.tables[shot].subarray(at, at + 9), 0);
  }

  /** How far a frame shifts, on the shot's first frame, what lies a depth of 1 from the first group. */
  slideOf(shot: number, frame: number): Point {
    const { first, groups } = this.shots[shot];
    const at = (frame - first + 1) * numbersOf({ groups }) - 2;
    return { x: this.tables[shot][at], y: this.tables[shot][at + 1] };
  }

  /** The pages that there is anything on. */
  get pages(): number[] {
    const pages = new Set<number>();
    for (const { first, last } of this.shots)
      for (let p = Math.floor(first / motionPageLength); p * motionPageLength <= last; p++) pages.add(p);
    return [...pages];
  }

  packPage(page: number): Uint8Array {
    const parts = this.partsOf(page);
    const bytes = new Uint8Array(8 * parts.reduce((sum, part) => sum + part.length, 0));
    const view = new DataView(bytes.buffer);
    let at = 0;
    for (const part of parts) for (const value of part) view.setFloat64(8 * at++, value, true);
    return bytes;
  }

  /** Takes in what `packPage` wrote; throws a RangeError where it is of other shots. */
  unpackPage(page: number, bytes: Uint8Array): void {
    const parts = this.partsOf(page);
    const length = parts.reduce((sum, part) => sum + part.length, 0);
    if (bytes.byteLength !== 8 * length)
      throw new RangeError('This page of motions does not belong to these shots.');
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    let at = 0;
    for (const part of parts) for (let i = 0; i < part.length; i++) part[i] = view.getFloat64(8 * at++, true);
  }

  /** The stretches of the tables that a page holds. */
  private partsOf(page: number): Float64Array[] {
    const [from, to] = [page * motionPageLength, (page + 1) * motionPageLength - 1];
    return this.shots.flatMap((shot, s) => {
      const [first, last] = [Math.max(shot.first, from), Math.min(shot.last, to)];
      const numbers = numbersOf(shot);
      return first > last
        ? []
        : [this.tables[s].subarray((first - shot.first) * numbers, (last - shot.first + 1) * numbers)];
    });
  }
}

/** A feature as it is shown on a frame. */
export interface ShownFeature extends Point {
  id: number;
  /** Which group it goes with, counted from 0; −1 where it goes with none. */
  group: number;
  /** Kept out of every solve. */
  heldOut: boolean;
}

const featureBytes = 13;
const noGroup = 0x7f;
const out = 0x80;

/** The features on the frames of a page: of each frame their number, then each: id, group, x, y; little-endian, clip pixels. */
export function packFeatures(
  page: number,
  shots: readonly { features: ShotFeatures; groups: ShotGroups }[],
  pixelAspect = 1,
): Uint8Array {
  const frames: { features: ShotFeatures; from: number; to: number; tags: Uint8Array }[] = [];
  const [first, end] = [page * motionPageLength, (page + 1) * motionPageLength];
  for (const { features, groups } of shots) {
    if (features.last < first || features.first >= end) continue;
    const tags = tagsOf(features.features, groups);
    for (let frame = Math.max(first, features.first); frame <= Math.min(end - 1, features.last); frame++) {
      const k = frame - features.first;
      frames[frame - first] = { features, from: features.starts[k], to: features.starts[k + 1], tags };
    }
  }
  const samples = frames.reduce((sum, { from, to }) => sum + to - from, 0);
  const bytes = new Uint8Array(2 * motionPageLength + featureBytes * samples);
  const view = new DataView(bytes.buffer);
  let at = 0;
  for (let i = 0; i < motionPageLength; i++) {
    const there = frames[i] as (typeof frames)[number] | undefined;
    view.setUint16(at, there ? there.to - there.from : 0, true);
    at += 2;
    if (!there) continue;
    for (let s = there.from; s < there.to; s++, at += featureBytes) {
      const f = there.features.feature[s];
      view.setUint32(at, there.features.ids[f], true);
      view.setUint8(at + 4, there.tags[f]);
      view.setFloat32(at + 5, there.features.places[2 * s] / pixelAspect, true);
      view.setFloat32(at + 9, there.features.places[2 * s + 1], true);
    }
  }
  return bytes;
}

function tagsOf(features: number, { groups }: ShotGroups): Uint8Array {
  const tags = new Uint8Array(features).fill(noGroup);
  groups.forEach(({ members, heldOut }, g) => {
    members.forEach((f) => (tags[f] = g));
    heldOut.forEach((f) => (tags[f] = g | out));
  });
  return tags;
}

/** The features on each frame of a page that `packFeatures` wrote; throws a RangeError where it is none. */
export function unpackFeatures(bytes: Uint8Array): ShownFeature[][] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const frames: ShownFeature[][] = [];
  let at = 0;
  for (let i = 0; i < motionPageLength; i++) {
    const count = view.getUint16(at, true);
    at += 2;
    frames.push(
      Array.from({ length: count }, (_, n) => {
        const from = at + n * featureBytes;
        const tag = view.getUint8(from + 4);
        return {
          id: view.getUint32(from, true),
          group: (tag & noGroup) === noGroup ? -1 : tag & noGroup,
          heldOut: (tag & out) !== 0,
          x: view.getFloat32(from + 5, true),
          y: view.getFloat32(from + 9, true),
        };
      }),
    );
    at += count * featureBytes;
  }
  if (at !== bytes.byteLength) throw new RangeError('This is no page of features.');
  return frames;
}

/** Packed features of a clip, unpacked a page at a time as they are looked at. */
export class FeaturePages {
  private readonly packed: ReadonlyMap<number, Uint8Array>;
  private readonly unpacked = new Map<number, ShownFeature[][]>();

  constructor(pages: Iterable<readonly [page: number, bytes: Uint8Array]>) {
    this.packed = new Map(pages);
  }

  /** The pages as they are packed. */
  get pages(): [page: number, bytes: Uint8Array][] {
    return [...this.packed];
  }

  /** The features on a frame. */
  on(frame: number): readonly ShownFeature[] {
    const page = Math.floor(frame / motionPageLength);
    let frames = this.unpacked.get(page);
    if (!frames) {
      const bytes = this.packed.get(page);
      if (!bytes) return [];
      frames = unpackFeatures(bytes);
      this.unpacked.set(page, frames);
    }
    return frames[frame % motionPageLength] ?? [];
  }
}
