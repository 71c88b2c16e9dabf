import { TrackKernels, type TrackPicture } from '@lurn/core';
import { kernelModule } from '../kernels.js';
import type { Analyser, BeginAnalyser, PassFrame } from './analyser.js';

/** An analyser to begin with. */
export interface AnalyserOrder {
  /** Its number among those of the pass. */
  number: number;
  module: string;
  order: unknown;
}

/** What one analyser has found in a picture. */
export interface Found {
  number: number;
  found: unknown;
}

/** Works out what the shared analysis says of two pictures. */
type AskShared = (before: PassFrame, at: PassFrame) => unknown;

/** What a thread does in a pass: it has its analysers look at pictures given in order. */
export class ThreadWork {
  readonly kernels = new TrackKernels(kernelModule());
  private analysers: { number: number; analyser: Analyser }[] = [];
  private before: PassFrame | null = null;
  /** Where pictures lie that are the kernels' already. */
  private readonly lent = new Map<Uint8Array, number>();

  async begin(direction: 1 | -1, orders: readonly AnalyserOrder[]): Promise<void> {
    this.end();
    for (const { number, module, order } of orders) {
      const { begin } = (await import(module)) as { begin: BeginAnalyser };
      this.analysers.push({ number, analyser: begin(this.kernels, order as never, direction) });
    }
  }

  private end(): void {
    this.analysers.forEach(({ analyser }) => analyser.end());
    this.analysers = [];
    this.before = null;
  }

  look(picture: TrackPicture, frame: number, ask: AskShared | null): Found[] {
    const at = { picture, frame };
    const { before } = this;
    const near = before && Math.abs(before.frame - frame) === 1 ? before : null;
    let known: unknown;
    const shared = near && ask ? () => (known ??= ask(near, at)) : undefined;
    this.before = at;
    return this.analysers.map(({ number, analyser }) => ({
      number,
      found: analyser.look({ ...at, before: near, shared }),
    }));
  }

  busyAfter(frame: number): boolean {
    return this.analysers.some(({ analyser }) => analyser.busyAfter(frame));
  }

  /** Room for a picture in the kernels' memory, where nothing need be copied to be looked at, until `rest`. */
  buffer(bytes: number): Uint8Array {
    const at = this.kernels.alloc(bytes);
    const data = this.kernels.bytes(at, bytes);
    this.lent.set(data, at);
    return data;
  }

  /** The address of what `buffer` gave. */
  wasmAddress(data: Uint8Array): number | undefined {
    return this.lent.get(data);
  }

  /** Lets go of the analysers, and of the room for pictures. */
  rest(): void {
    this.end();
    for (const [{ length }, at] of this.lent) this.kernels.free(at, length);
    this.lent.clear();
  }
}
