import { randomUUID } from 'node:crypto';
import { Injectable, UnprocessableEntityException } from '@nestjs/common';
import type {
  ExportsView,
  JobView,
  SceneRequest,
  SceneView,
  SteadyLikeRequest,
  SteadyView,
  TrackView,
} from '@lurn/contract';
import {
  mapIds,
  readRecipe,
  TrackRecord,
  recipeKeys,
  samplesOfKeys,
  writeRecipe,
  type Recipe,
} from '@lurn/model';
import { ClipsService, type ReadyClip } from '../clips/clips.service.js';
import { sentenceOf } from '../failure.filter.js';
import { JobsService } from '../jobs/jobs.service.js';
import type { Change } from '../records/change.js';
import { EditsService } from '../records/edits.service.js';
import { ScenesService } from '../scenes/scenes.service.js';
import { TrackRunsService } from '../tracks/track-runs.service.js';
import { pageOf, samplesColumn } from '../tracks/track-record.js';
import { ExportsService } from './exports.service.js';

/** What was asked for, of one clip. */
interface LikeOrder {
  from: string;
  export?: SteadyLikeRequest['export'];
}

/** Steadies clips as another is: the same choices, its scene found and its points followed anew. */
@Injectable()
export class SteadyLikeService {
  constructor(
    private readonly clips: ClipsService,
    private readonly edits: EditsService,
    private readonly jobs: JobsService,
    private readonly scenes: ScenesService,
    private readonly runs: TrackRunsService,
    private readonly exports: ExportsService,
  ) {
    jobs.restartWith('like', (clipId, request) => this.start(clipId, request as LikeOrder));
  }

  /** One after another, each clip that can be; a sentence for each that cannot. */
  async several(from: string, { clipIds, export: asked }: SteadyLikeRequest): Promise<ExportsView> {
    const view: ExportsView = { jobs: [], refused: [] };
    for (const clipId of clipIds) {
      try {
        view.jobs.push(await this.start(clipId, { from, export: asked }));
      } catch (error) {
        const message = sentenceOf(error);
        if (message === null) throw error;
        view.refused.push({ clipId, message });
      }
    }
    return view;
  }

  async start(clipId: string, request: LikeOrder): Promise<JobView> {
    if (clipId === request.from)
      throw new UnprocessableEntityException('A clip is steadied as another is, not as itself.');
    const clip = await this.clips.readable(clipId);
    const { row } = clip;
    const { recipe, tracks } = await this.recipeFor(request.from, clip);
    return this.jobs.start(
      {
        ...{ projectId: row.projectId, clipId, kind: 'like', fileName: row.name, request },
        // Its own work is small: what it waits for are jobs of their own.
        atOnce: true,
        total: 1 + (recipe.scene ? 1 : 0) + recipe.tracks.length,
      },
      async ({ progress, signal }) => {
        let done = 0;
        const ended = async (job: JobView): Promise<void> => {
          const stop = (): void => void this.jobs.cancel(job.id);
          signal.addEventListener('abort', stop, { once: true });
          if (signal.aborted) stop();
          const { state, error } = await this.jobs.whenEnded(job.id);
          signal.removeEventListener('abort', stop);
          signal.throwIfAborted();
          if (state !== 'done') throw new UnprocessableEntityException(error ?? 'It was called off.');
          progress(++done);
        };
        const ids = await this.take(clip, recipe, tracks);
        progress(++done);
        if (recipe.scene) {
          const { areas } = recipe.scene;
          await ended(await this.scenes.find(clipId, areas as SceneRequest));
          await this.hold(clipId, recipe.scene.choices);
        }
        for (const [i, id] of ids.entries()) {
          const [from] = recipe.tracks[i].keys.map(({ frame }) => frame).sort((a, b) => a - b);
          await ended(await this.runs.start(clipId, { trackIds: [id], direction: 'both', from }));
        }
        await this.hideEdges(clipId, request.from);
        if (request.export) await this.exports.start(clipId, request.export);
      },
    );
  }

  /** What was chosen for one clip, for another; throws where it cannot be. */
  private async recipeFor(
    from: string,
    { row, media }: ReadyClip,
  ): Promise<{ recipe: Recipe; tracks: TrackView[] }> {
    const source = await this.clips.ready(from);
    if (source.row.projectId !== row.projectId)
      throw new UnprocessableEntityException('Both clips are to be of one project.');
    const tracks = withHoldOuts(await this.clips.tracksOf(from));
    const scene = await this.clips.sceneOf(from);
    const samples = await Promise.all(
      tracks.map(async ({ id }) => [
        id,
        { keys: recipeKeys(await this.clips.samples(id, source.row.frames)) },
      ]),
    );
    const text = writeRecipe(
      { ...source.media, name: source.row.name, frames: source.row.frames },
      [
        { kind: 'steady', id: from, view: source.row.steady },
        ...(scene ? [{ kind: 'scene', id: scene.id, view: scene }] : []),
        ...tracks.map((view) => ({ kind: 'track', id: view.id, view })),
      ],
      Object.fromEntries(samples) as Parameters<typeof writeRecipe>[2],
    );
    const recipe = readRecipe(text, { ...media, frames: row.frames }, (base64) =>
      Buffer.from(base64, 'base64'),
    );
    const without = recipe.tracks.find(({ keys }) => keys.length === 0);
    if (without)
      throw new UnprocessableEntityException(
        `The keys of "${without.name}" lie beyond the end of "${row.name}": place one on an earlier frame.`,
      );
    return { recipe, tracks };
  }

  /** Takes choices and keys over, as one edit; tracks that had a say before have none any more. */
  private take({ row }: ReadyClip, recipe: Recipe, originals: readonly TrackView[]): Promise<string[]> {
    return this.edits.inTurn(row.id, async () => {
      const others = await this.clips.tracksOf(row.id);
      const { steady: before } = await this.clips.row(row.id);
      const { steady = before } = recipe;
      const scene = await this.clips.sceneOf(row.id);
      const changes: Change[] = [
        { kind: 'steady', id: row.id, before, after: steady as SteadyView },
        ...others
          .filter(({ used }) => used)
          .map((track): Change => ({
            kind: 'track',
            id: track.id,
            before: track,
            after: { ...track, used: false },
          })),
      ];
      if (scene?.used && !recipe.scene)
        changes.push({ kind: 'scene', id: scene.id, before: scene, after: { ...scene, used: false } });
      const newIds = new Map(originals.map(({ id }) => [id, randomUUID() as string]));
      const ids = recipe.tracks.map((track, i) => {
        const id = newIds.get(originals[i].id) as string;
        const after: TrackView = {
          ...mapIds(TrackRecord, originals[i], (one) => newIds.get(one) ?? one),
          ...{ id, clipId: row.id, position: others.length + i, accepted: [], locked: false },
          offsets: [...track.offsets],
        };
        const samples = samplesOfKeys(track.keys, row.frames);
        changes.push({ kind: 'track', id, before: null, after });
        for (let page = 0; page < samples.pages; page++) {
          const bytes = pageOf(samples, page);
          if (bytes)
            changes.push({ kind: 'track', id, column: samplesColumn, page, before: null, after: bytes });
        }
        return id;
      });
      await this.edits.commit(row.id, 'Steady as another clip', changes);
      return ids;
    });
  }

  /** Holds of each shot what is held in the other clip, as far as there is such a group. */
  private async hold(clipId: string, choices: NonNullable<Recipe['scene']>['choices']): Promise<void> {
    const scene = (await this.clips.sceneOf(clipId)) as SceneView;
    for (const [shot, { groups }] of scene.shots.entries()) {
      const choice = choices.at(shot);
      if (!choice || choice.group >= groups.length) continue;
      const depth = groups.some((one) => one.depth) ? (choice.depth ?? undefined) : undefined;
      if (choice.group !== 0 || depth !== undefined)
        await this.scenes.change(scene.id, { hold: { shot, group: choice.group, depth } });
    }
  }

  /** Where the other clip shows no bare edge, this one shows none either: its own smallest zoom takes the place of that one's. */
  private async hideEdges(clipId: string, from: string): Promise<void> {
    const [clip, source] = [await this.clips.ready(clipId), await this.clips.ready(from)];
    const [own, other] = [await this.exports.solve(clip), await this.exports.solve(source)];
    if (!own.fit || own.bare.length === 0 || other.bare.length > 0) return;
    const { steady } = clip.row;
    await this.clips.setSteady(clipId, { ...steady, framing: own.fit.framing }, 'Hide bare edges');
  }
}

/** The tracks that have a say, after those that carry what is held out of them: a region is followed after what rides over it. */
function withHoldOuts(all: readonly TrackView[]): TrackView[] {
  const ordered = new Set<TrackView>();
  const take = (track: TrackView, under: readonly string[]): void => {
    if (ordered.has(track) || under.includes(track.id)) return;
    const carriers = new Set(track.region?.holdOuts.flatMap(({ trackId }) => trackId ?? []));
    for (const one of all) if (carriers.has(one.id)) take(one, [...under, track.id]);
    ordered.add(track);
  };
  for (const track of all) if (track.used) take(track, []);
  return [...ordered];
}
