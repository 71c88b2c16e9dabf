import { Injectable, UnprocessableEntityException } from '@nestjs/common';
import type { ExportRequest, JobView } from '@lurn/contract';
import { containerKinds, isSteadied, steady, type SteadyResult } from '@lurn/core';
import { encodingFor } from '@lurn/media';
import { placeStep } from '@lurn/pipeline';
import { ClipFiles } from '../clips/clip-files.js';
import { ClipsService, type ReadyClip } from '../clips/clips.service.js';
import { JobsService } from '../jobs/jobs.service.js';

@Injectable()
export class ExportsService {
  constructor(
    private readonly clips: ClipsService,
    private readonly files: ClipFiles,
    private readonly jobs: JobsService,
  ) {
    jobs.restartWith('export', (clipId, request) => this.start(clipId, request ?? {}));
  }

  /** The same computation as the browser's, by the same code. */
  async solve({ row, media, times }: ReadyClip): Promise<SteadyResult> {
    const tracks = await this.clips.namedTracks(row.id, row.frames, { onlyUsed: true });
    const { width, height, pixelAspect } = media;
    return steady(
      tracks.map((t) => t.samples),
      { width, height, pixelAspect, times },
      row.steady,
      await this.clips.heldScene(row.id),
    );
  }

  async start(clipId: string, request: ExportRequest = {}): Promise<JobView> {
    const clip = await this.clips.readable(clipId);
    const solved = await this.solve(clip);
    if (!isSteadied(solved.motion, clip.row.steady)) {
      throw new UnprocessableEntityException(
        'There is no motion to take out yet: find the camera’s motion, or place a track and follow it.',
      );
    }
    const { row, media, index } = clip;
    const { first, last } = row.steady.range;
    const encoding = encodingFor(request, media, row.steady.edge === 'transparent');
    const fileName = `${row.name.replace(/\.[^.]*$/, '')}-${row.steady.mode === 'hold' ? 'held' : 'smoothed'}${containerKinds[encoding.container].ending}`;
    return this.jobs.start(
      { projectId: row.projectId, clipId, kind: 'export', total: last - first + 1, fileName, request },
      ({ id, progress, signal }) =>
        this.jobs.pool.run(
          {
            kind: 'export',
            clip: media,
            index,
            first,
            last,
            steps: [placeStep(solved, media, row.steady)],
            encoding,
            path: this.files.movie(id),
          },
          (news) => 'frames' in news && progress(news.frames),
          signal,
        ),
    );
  }
}
