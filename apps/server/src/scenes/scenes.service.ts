import { randomUUID } from 'node:crypto';
import { Injectable, NotFoundException, UnprocessableEntityException } from '@nestjs/common';
import type { ClipChange, JobView, ScenePatch, SceneRequest, SceneView } from '@lurn/contract';
import { motionPageLength } from '@lurn/core';
import type { PackedScene } from '@lurn/pipeline';
import { ClipsService } from '../clips/clips.service.js';
import { JobsService } from '../jobs/jobs.service.js';
import type { Change } from '../records/change.js';
import { EditsService } from '../records/edits.service.js';
import { RecordsService } from '../records/records.service.js';
import { featuresColumn, motionsColumn } from './scene-record.js';

/** Finds the whole picture's motion in a worker, and keeps what is chosen of it. */
@Injectable()
export class ScenesService {
  constructor(
    private readonly clips: ClipsService,
    private readonly records: RecordsService,
    private readonly edits: EditsService,
    private readonly jobs: JobsService,
  ) {
    jobs.restartWith('scene', (clipId, request) => this.find(clipId, request as SceneRequest));
  }

  /** Looks for the whole picture's motion; called off on the way, it keeps what it has. */
  async find(clipId: string, request: SceneRequest): Promise<JobView> {
    const { row, media, index } = await this.clips.readable(clipId);
    const { within = [], without = [] } = request;
    return this.jobs.start(
      { projectId: row.projectId, clipId, kind: 'scene', total: row.frames, request },
      async ({ progress, signal }) => {
        const keeping: Promise<unknown>[] = [];
        try {
          await this.jobs.pool.run(
            { kind: 'scene', clip: media, index, areas: { within, without } },
            (news) => {
              if ('frames' in news) progress(news.frames, news.total);
              else if ('sceneFound' in news)
                keeping.push(this.keep(clipId, news.sceneFound, { within, without }));
            },
            { signal },
          );
        } finally {
          await Promise.all(keeping);
        }
      },
    );
  }

  change(id: string, { hold, ...patch }: ScenePatch): Promise<ClipChange> {
    return this.withScene(id, (before) => {
      const after = { ...before, ...patch };
      if (hold) {
        const shot = before.shots.at(hold.shot);
        if (!shot) throw new UnprocessableEntityException(`There is no shot ${hold.shot + 1} in this clip.`);
        if (hold.group >= shot.groups.length)
          throw new UnprocessableEntityException(
            `Shot ${hold.shot + 1} has ${shot.groups.length} motion groups; there is no group ${hold.group + 1}.`,
          );
        if (hold.depth !== undefined && shot.groups.every(({ depth }) => !depth))
          throw new UnprocessableEntityException(
            `The camera does not travel in shot ${hold.shot + 1}: nothing in it lies deeper than the rest.`,
          );
        after.shots = before.shots.map((one, i) =>
          i === hold.shot ? { ...one, group: hold.group, depth: hold.depth ?? null } : one,
        );
      }
      return [[{ kind: 'scene', id, before, after }], hold ? 'Hold a group' : 'Change the scene'];
    });
  }

  remove(id: string): Promise<ClipChange> {
    return this.withScene(id, async (before) => {
      const pages = await Promise.all(
        [motionsColumn, featuresColumn].map(async (column) =>
          (await this.records.pagesOf(id, column)).map(({ page, bytes }): Change => ({
            kind: 'scene',
            id,
            column,
            page,
            before: bytes,
            after: null,
          })),
        ),
      );
      return [[...pages.flat(), { kind: 'scene', id, before, after: null }], 'Delete the scene'];
    });
  }

  private async withScene(
    id: string,
    edit: (before: SceneView) => [Change[], string] | Promise<[Change[], string]>,
  ): Promise<ClipChange> {
    const find = async (): Promise<SceneView> => {
      const [record] = await this.records.find([id]);
      if (record?.kind !== 'scene') throw new NotFoundException('There is no such scene.');
      return record.view as SceneView;
    };
    const { clipId } = await find();
    return this.edits.inTurn(clipId, async () => {
      const [changes, label] = await edit(await find());
      return this.edits.commit(clipId, label, changes);
    });
  }

  /** Puts what was found in the place of what there was. */
  private keep(clipId: string, found: PackedScene, areas: Required<SceneRequest>): Promise<ClipChange> {
    return this.edits.inTurn(clipId, async () => {
      const { row } = await this.clips.ready(clipId);
      const before = await this.clips.sceneOf(clipId);
      const id = before?.id ?? randomUUID();
      const after: SceneView = {
        ...{ id, clipId, name: before?.name ?? 'Scene', used: true, hidden: false },
        ...areas,
        foundAt: new Date().toISOString(),
        shots: found.shots.map((shot) => ({ ...shot, group: 0, depth: null })),
      };
      const changes: Change[] = [{ kind: 'scene', id, before, after }];
      const pages = Math.ceil(row.frames / motionPageLength);
      for (const [column, fresh] of [
        [motionsColumn, found.motions],
        [featuresColumn, found.features],
      ] as const) {
        const old = new Map((await this.records.pagesOf(id, column)).map(({ page, bytes }) => [page, bytes]));
        const next = new Map(fresh);
        for (let page = 0; page < pages; page++) {
          const bytes = next.get(page);
          const was = old.get(page) ?? null;
          if (bytes || was)
            changes.push({
              kind: 'scene',
              id,
              column,
              page,
              before: was,
              after: bytes ? Buffer.from(bytes) : null,
            });
        }
      }
      return this.edits.commit(clipId, 'Find the camera’s motion', changes);
    });
  }
}
