import { Injectable, NotFoundException, UnprocessableEntityException } from '@nestjs/common';
import type { PlaceScoreView, SuggestionView, SuggestRequest } from '@lurn/contract';
import {
  defaultFollowOptions,
  goesItsOwnWay,
  startingBoxes,
  type PlaceScore,
  type Suggestion,
} from '@lurn/core';
import { ClipsService } from '../clips/clips.service.js';
import { JobsService } from '../jobs/jobs.service.js';

/** Tells where a clip is best followed. */
@Injectable()
export class SuggestionsService {
  constructor(
    private readonly clips: ClipsService,
    private readonly jobs: JobsService,
  ) {}

  async suggest(
    clipId: string,
    { frame, count, within, without }: SuggestRequest,
  ): Promise<SuggestionView[]> {
    const { row, media, index } = await this.clips.readable(clipId);
    if (frame >= row.frames)
      throw new UnprocessableEntityException(
        `Frame ${frame} is outside the clip; its frames are 0 to ${row.frames - 1}.`,
      );
    let found: Suggestion[] = [];
    const options = { count, ...startingBoxes(media), within, without };
    await this.jobs.pool.run({ kind: 'suggest', clip: media, index, frame, options }, (news) => {
      if ('suggestions' in news) found = news.suggestions;
    });
    return found.map((s) => ({ ...view(s, media.width), x: s.x, y: s.y }));
  }

  /** How well one place will be followed. */
  async judge(clipId: string, frame: number, at: { x: number; y: number }): Promise<PlaceScoreView> {
    const { row, media, index } = await this.clips.readable(clipId);
    if (frame < 0 || frame >= row.frames) throw new NotFoundException(`"${row.name}" has no frame ${frame}.`);
    if (!(at.x >= 0 && at.y >= 0 && at.x <= media.width && at.y <= media.height))
      throw new UnprocessableEntityException('A place to score lies within the picture.');
    let score: PlaceScore | null = null;
    const options = { ...startingBoxes(media), model: defaultFollowOptions.model };
    await this.jobs.atHand.run({ kind: 'judge', clip: media, index, frame, at, options }, (news) => {
      if ('score' in news) score = news.score;
    });
    if (!score) throw new Error('No score came back.');
    return view(score, media.width);
  }

  /** Has the frames about this one ready for steps by hand. */
  async warm(clipId: string, frame: number): Promise<void> {
    const { row, media, index } = await this.clips.readable(clipId);
    if (frame < 0 || frame >= row.frames) return;
    await this.jobs.atHand.run({ kind: 'warm', clip: media, index, frame }, () => undefined);
  }
}

const degrees = 180 / Math.PI;

const view = (
  { score, error, slide, secondPeak, tried, relativeVelocity, unseen }: PlaceScore,
  width: number,
): PlaceScoreView => ({
  score,
  double: secondPeak,
  tried,
  unseen,
  error: Number.isFinite(error) ? error : null,
  ownWay: relativeVelocity === null ? null : goesItsOwnWay(relativeVelocity, width),
  slide: slide === null ? null : slide * degrees,
});
