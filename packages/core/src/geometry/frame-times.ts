/** When the frames of a clip are shown. */
export interface FrameTimes {
  frames: number;
  /** Where frames come unevenly, their mean rate. */
  framesPerSecond: number;
  /**
   * Where frames come unevenly, seconds from the first frame to the beginning of each, and as one more entry to the end of
   * the last; null where they keep an even beat.
   */
  starts: Float64Array | null;
}

export const evenTimes = (frames: number, framesPerSecond: number): FrameTimes => ({
  frames,
  framesPerSecond,
  starts: null,
});

/** Of clips whose frames come when `starts` says, the end of the last one as one entry more. Seconds, rising. */
export function unevenTimes(starts: Float64Array): FrameTimes {
  const frames = starts.length - 1;
  return { frames, framesPerSecond: frames / starts[frames], starts };
}

/** Seconds from the first frame to the beginning of one; of `frames`, to the end of the last. */
export const startOf = ({ starts, framesPerSecond }: FrameTimes, frame: number): number =>
  starts ? starts[frame] : frame / framesPerSecond;

/** Seconds from the first frame to the end of the last. */
export const durationOf = (times: FrameTimes): number => startOf(times, times.frames);

/** The frame that is shown so many seconds after the first one came, kept within the clip. */
export function frameAt({ starts, frames, framesPerSecond }: FrameTimes, seconds: number): number {
  if (!starts) return Math.min(Math.max(Math.floor(seconds * framesPerSecond), 0), frames - 1);
  let [low, high] = [0, frames - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (starts[middle] <= seconds) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** The times of a stretch of frames, both ends included. */
export function sliceTimes({ starts, framesPerSecond }: FrameTimes, first: number, last: number): FrameTimes {
  const frames = last - first + 1;
  if (!starts) return { frames, framesPerSecond, starts };
  return {
    frames,
    framesPerSecond,
    starts: starts.slice(first, last + 2).map((start) => start - starts[first]),
  };
}
