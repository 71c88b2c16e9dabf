import { Samples } from '@lurn/core';

/** Tracks as they cross from thread to thread: page by page, as they are stored. */
export interface PackedSamples {
  frames: number;
  pages: (Uint8Array | null)[];
}

export function packSamples(samples: Samples): PackedSamples {
  return {
    frames: samples.frames,
    pages: Array.from({ length: samples.pages }, (_, page) => samples.packPage(page)),
  };
}

export function unpackSamples({ frames, pages }: PackedSamples): Samples {
  const samples = new Samples(frames);
  pages.forEach((bytes, page) => samples.unpackPage(page, bytes));
  return samples;
}
