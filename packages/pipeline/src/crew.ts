import { Worker } from 'node:worker_threads';
import { Reason, type SampleState } from '@lurn/core';
import { coresInUse } from '@lurn/media';
import { LegWalkers, type Finding, type Leg, type LegSubject } from './legs.js';
import { packSamples, type PackedSamples } from './packed-samples.js';
import { asPicture, type PictureFormat } from './track-picture.js';

/** Fewer tracks than this are not worth a thread. */
const worthAThread = 8;

export interface Lent {
  run: number;
  key: number;
  data: Uint8Array;
}

/** What a helper thread is told, and what it answers: numbers of findings, ten each. */
export type HelperOrder =
  | { begin: 1 | -1; format: PictureFormat; legs: { leg: Leg; subject: HelperSubject }[]; lent: Lent[] }
  | { look: number; data: Uint8Array };
export type HelperSubject = Omit<LegSubject, 'path'> & { path: PackedSamples };
export interface HelperAnswer {
  found: Float64Array;
  busy: boolean;
}

/** Whoever walks a share of the legs: in this thread, or in one of its own. */
interface Member {
  begin(
    direction: 1 | -1,
    format: PictureFormat,
    legs: readonly { leg: Leg; subject: LegSubject }[],
    lent: readonly Lent[],
  ): Promise<void>;
  /** Room for a picture that it can look at without copying. */
  buffer(bytes: number): Uint8Array;
  /** Resolves when the picture's bytes are no longer looked at. */
  look(data: Uint8Array, frame: number): Promise<Finding[]> | Finding[];
  readonly busy: boolean;
  /** Ends what it does, for good or until the next `begin`. */
  dismiss(): void;
}

/** Walkers that have nothing to do: with them their memory is used again. */
const resting: LegWalkers[] = [];

class Here implements Member {
  private readonly walkers = resting.pop() ?? new LegWalkers();
  private format!: PictureFormat;
  busy = true;

  async begin(...[direction, format, legs, lent]: Parameters<Member['begin']>): Promise<void> {
    this.format = format;
    this.walkers.begin(direction, legs);
    for (const { run, key, data } of lent) this.walkers.lend(run, asPicture(data, format), key);
    this.busy = true;
  }

  buffer(bytes: number): Uint8Array {
    return this.walkers.buffer(bytes);
  }

  look(data: Uint8Array, frame: number): Finding[] {
    const picture = asPicture(data, this.format, this.walkers.wasmAddress(data));
    const found = this.walkers.look(picture, frame);
    this.busy = this.walkers.busyAfter(frame);
    return found;
  }

  dismiss(): void {
    this.walkers.rest();
    resting.push(this.walkers);
  }
}

/** Threads that have nothing to do: a new one would have to warm up first. */
const idle: Elsewhere[] = [];

class Elsewhere implements Member {
  private readonly thread = new Worker(new URL('crew-helper.js', import.meta.url));
  private readonly waiting: { resolve: (answer: HelperAnswer) => void; reject: (error: Error) => void }[] =
    [];
  private format!: PictureFormat;
  busy = true;

  constructor() {
    this.thread.on('message', (answer: HelperAnswer) => {
      this.waiting.shift()?.resolve(answer);
      this.rest();
    });
    this.thread.on('error', (error: Error) => {
      if (idle.includes(this)) idle.splice(idle.indexOf(this), 1);
      this.waiting.splice(0).forEach(({ reject }) => reject(error));
    });
  }

  /** An idle thread keeps nothing alive. */
  private rest(): void {
    if (this.waiting.length === 0) this.thread.unref();
  }

  private ask(order: HelperOrder): Promise<HelperAnswer> {
    this.thread.ref();
    this.thread.postMessage(order);
    return new Promise((resolve, reject) => this.waiting.push({ resolve, reject }));
  }

  async begin(...[direction, format, legs, lent]: Parameters<Member['begin']>): Promise<void> {
    const packed = legs.map(({ leg, subject }) => ({
      leg,
      subject: { ...subject, path: packSamples(subject.path) },
    }));
    this.busy = true;
    this.format = format;
    await this.ask({ begin: direction, format, legs: packed, lent: [...lent] });
  }

  buffer(bytes: number): Uint8Array {
    return new Uint8Array(new SharedArrayBuffer(bytes));
  }

  async look(data: Uint8Array, frame: number): Promise<Finding[]> {
    const { found, busy } = await this.ask({ look: frame, data });
    this.busy = busy;
    return unpackFindings(found);
  }

  dismiss(): void {
    // It takes orders one after another: the next crew may have it at once.
    idle.push(this);
    // With nothing to follow it lets go of its templates and of the last picture.
    this.begin(1, this.format, [], []).catch(() => undefined);
  }
}

const width = 10;

export function packFindings(found: readonly Finding[]): Float64Array {
  const packed = new Float64Array(width * found.length);
  found.forEach(({ run, frame, x, y, confidence, rotation, scale, state, reason, arrival }, i) =>
    packed.set(
      [run, frame, x, y, confidence, rotation, scale, state, reason ?? Reason.none, arrival ? 1 : 0],
      width * i,
    ),
  );
  return packed;
}

export function unpackFindings(packed: Float64Array): Finding[] {
  return Array.from({ length: packed.length / width }, (_, i) => {
    const [run, frame, x, y, confidence, rotation, scale, state, reason, arrival] = packed.subarray(
      width * i,
    );
    const named = { run, frame, x, y, confidence, rotation, scale, arrival: arrival === 1 };
    return { ...named, state: state as SampleState, reason: reason as Reason };
  });
}

/** Follows many tracks at once: a few in this thread, many spread over threads of their own. */
export class Crew {
  private readonly members: Member[];

  constructor(tracks: number) {
    const helpers = tracks < worthAThread ? 0 : Math.min(coresInUse(), Math.ceil(tracks / worthAThread));
    this.members =
      helpers === 0 ? [new Here()] : Array.from({ length: helpers }, () => idle.pop() ?? new Elsewhere());
  }

  /** Whether pictures are looked at while others are read. */
  get apart(): boolean {
    return this.members[0] instanceof Elsewhere;
  }

  /** Room for a picture that all can look at without copying; it is theirs until the crew is dismissed. */
  buffer(bytes: number): Uint8Array {
    return this.members[0].buffer(bytes);
  }

  async begin(
    direction: 1 | -1,
    format: PictureFormat,
    legs: readonly { leg: Leg; subject: LegSubject }[],
    lent: readonly Lent[],
  ): Promise<void> {
    const count = this.members.length;
    await Promise.all(
      this.members.map((member, m) => {
        const mine = legs.filter(({ leg }) => leg.run % count === m);
        const lentMine = lent.filter(({ run }) => run % count === m);
        return member.begin(direction, format, mine, lentMine);
      }),
    );
  }

  async look(data: Uint8Array, frame: number): Promise<Finding[]> {
    if (this.members.length === 1) return this.members[0].look(data, frame);
    return (await Promise.all(this.members.map((member) => member.look(data, frame)))).flat();
  }

  get busy(): boolean {
    return this.members.some((member) => member.busy);
  }

  dismiss(): void {
    this.members.forEach((member) => member.dismiss());
  }
}
