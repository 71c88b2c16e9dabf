import { isFound, pageLength, Samples, type Sample, type SampleState } from '@lurn/core';

/**
 * A track's samples, never changed: what has samples added is another, which shares all pages that are as they were. So
 * whoever has seen one knows by comparing what has changed.
 */
export class TrackSamples {
  private constructor(
    readonly frames: number,
    /** Each with the samples of `pageLength` frames; null where there are none. */
    readonly pages: readonly (Samples | null)[],
  ) {}

  static empty(frames: number): TrackSamples {
    return new TrackSamples(frames, new Array<null>(Math.ceil(frames / pageLength)).fill(null));
  }

  /** With a page as the core has packed it, null for an empty one. */
  withPage(page: number, bytes: Uint8Array | null): TrackSamples {
    if (page >= this.pages.length) return this;
    const samples = bytes && new Samples(pageLength);
    samples?.unpackPage(0, bytes);
    return new TrackSamples(this.frames, this.pages.with(page, samples));
  }

  /** With samples on some frames. */
  with(samples: Iterable<readonly [frame: number, sample: Sample]>): TrackSamples {
    const pages = [...this.pages];
    const own = new Set<number>();
    for (const [frame, sample] of samples) {
      const page = Math.floor(frame / pageLength);
      if (page >= pages.length) continue;
      const before = pages[page];
      if (!own.has(page)) pages[page] = before ? before.copy() : new Samples(pageLength);
      own.add(page);
      pages[page]?.set(frame % pageLength, sample);
    }
    return new TrackSamples(this.frames, pages);
  }

  get(frame: number): Sample | null {
    return this.page(frame)?.get(frame % pageLength) ?? null;
  }

  x(frame: number): number {
    return this.page(frame)?.x[frame % pageLength] ?? 0;
  }

  y(frame: number): number {
    return this.page(frame)?.y[frame % pageLength] ?? 0;
  }

  confidence(frame: number): number {
    return this.page(frame)?.confidence[frame % pageLength] ?? 0;
  }

  state(frame: number): SampleState {
    return (this.page(frame)?.state[frame % pageLength] ?? 0) as SampleState;
  }

  found(frame: number): boolean {
    return isFound(this.state(frame));
  }

  /** The frames placed by hand, in order. */
  keys(): number[] {
    return this.pages.flatMap((samples, page) => samples?.keys().map((k) => page * pageLength + k) ?? []);
  }

  private page(frame: number): Samples | null | undefined {
    return this.pages[Math.floor(frame / pageLength)];
  }
}
