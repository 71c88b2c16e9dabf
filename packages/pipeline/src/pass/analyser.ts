import type { TrackKernels, TrackPicture } from '@lurn/core';

/** A picture of a pass, and its number in the clip. */
export interface PassFrame {
  frame: number;
  picture: TrackPicture;
}

/** What an analyser looks at. */
export interface Look<Shared = unknown> extends PassFrame {
  /** The picture looked at before, where it is the clip's next one in either direction. */
  before: PassFrame | null;
  /** What the pass's shared analysis says of the way from `before` to this picture; worked out when first asked. */
  shared: (() => Shared) | undefined;
}

/** Looks at the pictures of one pass, one after another, in whatever thread it lives. */
export interface Analyser {
  /** What it has found; typed arrays cross between threads without a copy. */
  look(at: Look): unknown;
  /** Whether anything is still to be found beyond a frame. */
  busyAfter(frame: number): boolean;
  /** Gives back what it holds of the kernels' memory. */
  end(): void;
}

/** What the module of an analyser exports as `begin`. An order is what can be cloned to another thread. */
export type BeginAnalyser = (kernels: TrackKernels, order: never, direction: 1 | -1) => Analyser;

/** One analyser's part of a pass, as whoever starts the pass tells it. */
export interface Analysis {
  /** Address of the module that exports `begin`. */
  module: string;
  /** Orders for so many threads, one each; null where a thread has nothing to do. */
  share: (threads: number) => readonly unknown[];
  /** Takes what was found on a frame. */
  take: (found: unknown, frame: number) => void;
}

/** What all analysers of a pass want to know of each pair of pictures: worked out once, and given to them. */
export interface SharedAnalysis {
  /** Something that can be cloned to another thread. */
  look(kernels: TrackKernels, before: PassFrame, at: PassFrame): unknown;
}
