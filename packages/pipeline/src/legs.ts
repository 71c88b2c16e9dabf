import {
  PointPass,
  mapPlane,
  noSample,
  SceneMotion,
  TrackKernels,
  type FollowOptions,
  type Offset,
  type Point,
  type Sample,
  type Samples,
  type SceneChange,
  type TrackPicture,
} from '@lurn/core';
import { kernelModule } from './kernels.js';

/** So many tracks are looked at in so many places that the picture is cheaper copied once as a whole, and each is spared pixels. */
const many = 8;

/** One track's part of a pass: from `start` to `end`, both included, in the pass's direction. */
export interface Leg {
  run: number;
  start: number;
  end: number;
}

/** What is followed, and how. */
export interface LegSubject {
  path: Samples;
  options: FollowOptions;
  offsets: readonly Offset[];
}

/** A sample found on the way; `arrival` where it is what a pass found on a key's frame. */
export interface Finding extends Sample {
  run: number;
  frame: number;
  arrival: boolean;
}

interface Walker {
  leg: Leg;
  follower: PointPass;
  keys: readonly number[];
}

/** Walks legs of one direction through pictures given in order, in whatever thread it lives. */
export class LegWalkers {
  private readonly kernels = new TrackKernels(kernelModule());
  private readonly watch = new SceneMotion(this.kernels);
  private walkers: Walker[] = [];
  private direction: 1 | -1 = 1;
  private before: { picture: TrackPicture; frame: number } | null = null;
  /** Where pictures lie that are the kernels' already. */
  private readonly lentRoom = new Map<Uint8Array, number>();

  /** Room for a picture in the kernels' memory, where nothing need be copied to be looked at, until `rest`. */
  buffer(bytes: number): Uint8Array {
    const at = this.kernels.alloc(bytes);
    const data = this.kernels.bytes(at, bytes);
    this.lentRoom.set(data, at);
    return data;
  }

  /** The address of what `buffer` gave. */
  wasmAddress(data: Uint8Array): number | undefined {
    return this.lentRoom.get(data);
  }

  /** Lets go of what was followed, and of the room for pictures. */
  rest(): void {
    this.begin(1, []);
    for (const [{ length }, at] of this.lentRoom) this.kernels.free(at, length);
    this.lentRoom.clear();
  }

  begin(direction: 1 | -1, legs: readonly { leg: Leg; subject: LegSubject }[]): void {
    this.walkers.forEach(({ follower }) => follower.dispose());
    this.direction = direction;
    this.before = null;
    this.walkers = legs.map(({ leg, subject: { path, options, offsets } }) => ({
      leg,
      follower: new PointPass(this.kernels, options, path, offsets, legs.length >= many),
      keys: path.keys(),
    }));
  }

  /** A leg that does not start on a key takes its look from a key elsewhere. */
  lend(run: number, keyPicture: TrackPicture, key: number): void {
    const walker = this.walkers.find((w) => w.leg.run === run);
    walker?.follower.startFrom(keyPicture, key, walker.leg.start);
  }

  look(picture: TrackPicture, frame: number): Finding[] {
    const { before, direction, walkers } = this;
    let change: SceneChange | null = null;
    const near = before && Math.abs(before.frame - frame) === 1;
    const scene = near ? () => (change ??= this.watch.compare(before, { picture, frame })) : undefined;
    const found: Finding[] = [];
    const due = walkers.filter(
      ({ leg }) => (frame - leg.start) * direction >= 0 && (leg.end - frame) * direction >= 0,
    );
    const isCopied = due.length >= many && picture.wasmAddress === undefined;
    const seen = isCopied ? mapPlane(this.kernels, picture) : picture;
    const isLed = near && due.some(({ follower }) => follower.following);
    const drifts = isLed ? this.drifts(due, before, { picture: seen, frame }) : undefined;
    due.forEach(({ leg, follower }, i) => {
      const { path } = follower;
      for (const k of follower.look(seen, frame, scene, drifts?.[i])) found.push(finding(leg.run, k, path));
      const arrival = follower.arrivals.get(frame);
      if (arrival) found.push({ ...arrival, run: leg.run, frame, arrival: true });
      if (frame === leg.end) for (const k of follower.finish()) found.push(finding(leg.run, k, path));
    });
    this.before = { picture, frame };
    return found;
  }

  /** How the flow between two pictures carries what is followed. */
  private drifts(
    due: readonly Walker[],
    before: { picture: TrackPicture; frame: number },
    after: { picture: TrackPicture; frame: number },
  ): (Point | undefined)[] {
    const middles = due.map(({ follower }) => (follower.following ? follower.middle : null));
    const places = middles.flatMap((m) => (m ? [m.x, m.y] : [-1, -1]));
    const moved = this.watch.carry(before, after, places);
    return middles.map((m, i) =>
      m && !Number.isNaN(moved[2 * i]) ? { x: moved[2 * i], y: moved[2 * i + 1] } : undefined,
    );
  }

  /** Whether anything is still to be found beyond a frame. */
  busyAfter(frame: number): boolean {
    const { direction } = this;
    return this.walkers.some(
      ({ leg, follower, keys }) =>
        (leg.end - frame) * direction > 0 &&
        (follower.following ||
          (leg.start - frame) * direction > 0 ||
          keys.some((k) => (k - frame) * direction > 0 && (leg.end - k) * direction >= 0)),
    );
  }
}

function finding(run: number, frame: number, path: Samples): Finding {
  const { x, y, confidence, rotation, scale, state, reason } = path.get(frame) ?? noSample;
  return { run, frame, x, y, confidence, rotation, scale, state, reason, arrival: false };
}
