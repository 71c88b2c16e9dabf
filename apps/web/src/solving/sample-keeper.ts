import { pageLength, Samples } from '@lurn/core';
import { solvingColumns, type SolvingOrder } from './solving-order';

/** Keeps the samples of the tracks that are solved, so that only what has changed need be told. */
export class SampleKeeper {
  private kept = new Map<string, Samples>();

  /** Takes pages in. Returns the tracks' samples in order; those of tracks that are not named are let go. */
  take(tracks: SolvingOrder['tracks'], frames: number): Samples[] {
    const next = new Map<string, Samples>();
    for (const { id, fresh, corners, pages } of tracks) {
      const known = this.kept.get(id);
      const samples = !fresh && known ? known : new Samples(frames);
      samples.corners = corners;
      for (const { from, samples: page } of pages) {
        const length = Math.min(pageLength, frames - from);
        if (page)
          for (const column of solvingColumns) samples[column].set(page[column].subarray(0, length), from);
        else samples.state.fill(0, from, from + length);
      }
      next.set(id, samples);
    }
    this.kept = next;
    return [...next.values()];
  }
}
