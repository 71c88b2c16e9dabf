import { Injectable } from '@nestjs/common';
import type { TrackView } from '@lurn/contract';
import { SampleState, sure, type Point, type Samples } from '@lurn/core';
import { packSamples, type FoundSample } from '@lurn/pipeline';
import { ClipsService } from '../clips/clips.service.js';
import { JobsService } from '../jobs/jobs.service.js';
import { plainFollowOptions } from './follow-options.js';

/** Frames on which the one track's template is looked for where the other track is. */
const lookedAt = 4;

const median = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1];

/** Finds out how far apart two tracks of one feature lie on it. */
@Injectable()
export class JoiningService {
  constructor(
    private readonly clips: ClipsService,
    private readonly jobs: JobsService,
  ) {}

  /**
   * Looks for a track's own template about another's first places. Returns how far it lies from them, clip pixels; null
   * where it is not found for certain, or the pictures cannot be had.
   */
  async offsetBetween(track: TrackView, samples: Samples, other: Samples): Promise<Point | null> {
    const from = other.state.findIndex(
      (_, k) => other.found(k) && k + 1 < other.frames && other.found(k + 1),
    );
    const start = from < 0 ? null : other.get(from);
    if (!start || samples.keys().length === 0) return null;
    const clip = await this.clips.readable(track.clipId).catch(() => null);
    if (!clip) return null;
    // It starts where the other is; its look is that of its own nearest key.
    const begun = samples.copy();
    begun.set(from, { ...start, rotation: 0, scale: 1, state: SampleState.tracked });
    const last = Math.min(from + lookedAt, other.frames - 1);
    const found: FoundSample[] = [];
    await this.jobs.atHand.run(
      {
        kind: 'track',
        clip: clip.media,
        index: clip.index,
        runs: [{ samples: packSamples(begun), options: plainFollowOptions(track), from, offsets: [] }],
        direction: 'forwards',
        first: from,
        last,
        step: true,
      },
      (news) => {
        if ('found' in news) found.push(...news.found);
      },
    );
    const certain = found.filter(
      ({ frame, state, confidence }) =>
        state === SampleState.tracked && confidence >= sure && other.found(frame),
    );
    if (certain.length === 0) return null;
    const offset = {
      x: median(certain.map(({ frame, x }) => x - other.x[frame])),
      y: median(certain.map(({ frame, y }) => y - other.y[frame])),
    };
    // Farther off it is another feature.
    const { width, height } = track.template;
    return Math.abs(offset.x) < width / 2 && Math.abs(offset.y) < height / 2 ? offset : null;
  }
}
