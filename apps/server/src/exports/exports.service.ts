import { randomUUID } from 'node:crypto';
import { mkdir, mkdtemp, readdir, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Inject, Injectable, NotFoundException, UnprocessableEntityException } from '@nestjs/common';
import type { ExportRequest, JobView } from '@lurn/contract';
import {
  carryLayers,
  CollapsedMotion,
  type Layer,
  containerKinds,
  isSteadied,
  outputOf,
  soloed,
  steady,
  viewOf,
  type Carriers,
  type Samples,
  type SteadyResult,
  isPatch,
  operationsAt,
  type Match,
  type LayerPicture,
  type RoundTrip,
  tracksUnder,
} from '@lurn/core';
import { encodingFor, stillAs, type Encoding } from '@lurn/media';
import {
  pairWords,
  placeStep,
  treatedTrouble,
  type DressStep,
  type ExportTask,
  type PatchTask,
  type TaskNews,
} from '@lurn/pipeline';
import { ClipFiles } from '../clips/clip-files.js';
import { ClipsService, type ReadyClip } from '../clips/clips.service.js';
import { readLayer } from '@lurn/model';
import { AssetsService } from '../layers/assets.service.js';
import { JobsService } from '../jobs/jobs.service.js';
import { SERVER_OPTIONS, type ServerOptions } from '../options.js';
import { SettingsService } from '../settings/settings.service.js';

/** How a movie's pictures are made, and what its file is called after. */
type Making = Pick<ExportTask, 'steps' | 'beside' | 'words' | 'first' | 'last'> & { called: string };

/** A name that is one folder's, and nothing else. */
const folderName = /^[^/\\.:][^/\\:]*$/;

/** Milliseconds that a person waits for one picture. */
const patience = 9000;

@Injectable()
export class ExportsService {
  constructor(
    private readonly clips: ClipsService,
    private readonly files: ClipFiles,
    private readonly jobs: JobsService,
    private readonly settings: SettingsService,
    private readonly assets: AssetsService,
    @Inject(SERVER_OPTIONS) private readonly options: ServerOptions,
  ) {
    jobs.restartWith('export', (clipId, request) => this.start(clipId, request ?? {}));
  }

  /** The same computation as the browser's, by the same code. A motion that cannot be undone names its tracks. */
  async solve({ row, media, times }: ReadyClip): Promise<SteadyResult> {
    const tracks = await this.clips.namedTracks(row.id, row.frames, { onlyUsed: true });
    const { width, height, pixelAspect } = media;
    const scene = await this.clips.heldScene(row.id);
    const samples = tracks.map((track) => track.samples);
    try {
      return steady(samples, { width, height, pixelAspect, times }, row.steady, scene);
    } catch (error) {
      if (!(error instanceof CollapsedMotion)) throw error;
      const { frame } = error;
      throw new CollapsedMotion(
        frame,
        tracks.flatMap((one) => (one.samples.found(frame) ? [one.name] : [])),
      );
    }
  }

  async start(clipId: string, request: ExportRequest = {}): Promise<JobView> {
    const clip = await this.clips.readable(clipId);
    const solved = await this.solve(clip);
    const isDressed = (await this.clips.layersOf(clipId)).some(({ hidden }) => !hidden);
    if (!isSteadied(solved.motion, clip.row.steady) && !isDressed) {
      throw new UnprocessableEntityException(
        'There is no motion to take out yet: find the camera’s motion, or place a track and follow it.',
      );
    }
    const { row, media, index } = clip;
    const { treated, comparison, only } = request;
    if ([treated, comparison, only].filter(Boolean).length > 1)
      throw new UnprocessableEntityException(
        'A movie is a comparison, or has its motion put back, or is the layers alone: choose one.',
      );
    if (only && !isDressed)
      throw new UnprocessableEntityException('There is no layer to be seen alone: add one, or show it.');
    const isClear =
      (row.steady.edge === 'transparent' && !treated && !comparison && !only) || only === 'layers';
    const encoding = encodingFor(request, media, isClear);
    const made = treated
      ? await this.givenBack(clip, solved, treated)
      : await this.steadied(clip, solved, request);
    const folder = request.folder === undefined ? null : await this.folderFor(request.folder, encoding);
    const { called, ...making } = made;
    const fileName =
      request.folder === undefined
        ? `${row.name.replace(/\.[^.]*$/, '')}-${called}${containerKinds[encoding.container].ending}`
        : `${request.folder}/`;
    return this.jobs.start(
      {
        ...{ projectId: row.projectId, clipId, kind: 'export', fileName, request },
        total: making.last - making.first + 1,
      },
      async ({ id, progress, signal }) => {
        const began = performance.now();
        const path = folder ?? this.files.movie(id);
        await this.jobs.pool.run(
          { kind: 'export', clip: media, index, ...making, encoding, path },
          (news) => 'frames' in news && progress(news.frames),
          { signal },
        );
        const size = outputOf(viewOf(media, row.steady.output));
        const pixels = size.width * size.height * (making.last - making.first + 1);
        const bytes = folder ? null : (await stat(path)).size;
        await this.settings.keepPace(encoding.codec, {
          pixelsPerSecond: (1000 * pixels) / (performance.now() - began),
          bitsPerPixel: bytes === null ? null : (8 * bytes) / pixels,
        });
      },
    );
  }

  /** What draws the clip's layers onto its pictures; nothing where there are none. */
  private async dressing(clip: ReadyClip): Promise<DressStep[]> {
    const { row } = clip;
    const layers = soloed(await this.clips.layersOf(row.id));
    if (layers.every(({ hidden }) => hidden)) return [];
    const carriers = await this.carriersOf(layers, clip);
    const films = await this.filmsOf(layers, clip);
    const lengths = new Map([...films].map(([name, film]) => [name, film.times]));
    return [
      {
        kind: 'dress',
        layers: carryLayers(layers, carriers, lengths),
        pictures: await this.assets.picturesOf(layers),
        films: new Map([...films].map(([name, film]) => [name, { clip: film.media, index: film.index }])),
      },
    ];
  }

  /** What layers ride on. */
  private async carriersOf(
    layers: readonly Layer[],
    { row, media: { width, height, pixelAspect }, times }: ReadyClip,
  ): Promise<Carriers> {
    const scene = await this.clips.sceneOf(row.id);
    const tracks = await this.clips.tracksOf(row.id);
    const regions = new Map(tracks.flatMap(({ id, region }) => (region ? [[id, region] as const] : [])));
    return {
      regions,
      clip: { width, height, pixelAspect, times },
      tracks: await this.clips.samplesOf(row.id, tracksUnder(layers, regions), row.frames),
      scene: scene && (await this.clips.wholeScene(scene)),
    };
  }

  /** What a layer shows of the clip itself on a frame, as it is where it was drawn. */
  async patch(clipId: string, given: object, frame: number): Promise<LayerPicture> {
    let patch: LayerPicture | null = null;
    await this.withPatch('patch', clipId, given, frame, (news) => {
      if ('patch' in news) patch = news.patch;
    });
    if (!patch) throw new NotFoundException('The layer shows nothing there.');
    return patch;
  }

  /** What a frame loses on its way to where a layer was drawn and back. */
  async roundTrip(clipId: string, given: object, frame: number): Promise<RoundTrip> {
    let found: RoundTrip | null = null;
    await this.withPatch('round-trip', clipId, given, frame, (news) => {
      if ('roundTrip' in news) found = news.roundTrip;
    });
    if (!found) throw new NotFoundException('The layer shows nothing there.');
    return found;
  }

  private async withPatch(
    kind: PatchTask['kind'],
    clipId: string,
    given: object,
    frame: number,
    hear: (news: TaskNews) => void,
  ): Promise<void> {
    const clip = await this.clips.readable(clipId);
    const { row, media, index } = clip;
    if (frame < 0 || frame >= row.frames) throw new NotFoundException(`"${row.name}" has no frame ${frame}.`);
    const layer = readLayer(given, row.frames);
    if (!isPatch(layer.content))
      throw new UnprocessableEntityException('The layer is no fill and no repair.');
    const [carried] = carryLayers([layer], await this.carriersOf([layer], clip), new Map());
    await this.jobs.atHand.run({ kind, clip: media, index, layer: carried, frame }, hear, {
      limit: patience,
    });
  }

  /** The clips that layers show, by the names that they have there: others of the project, or the clip itself. */
  private async filmsOf(layers: readonly Layer[], own: ReadyClip): Promise<Map<string, ReadyClip>> {
    const films = new Map<string, ReadyClip>();
    for (const { name, hidden, content } of layers) {
      if (isPatch(content) && !hidden) films.set('', own);
      if (hidden || content.kind !== 'clip' || films.has(content.clip)) continue;
      const film = content.clip
        ? await this.clips.readable(content.clip).catch((error: Error) => {
            throw new UnprocessableEntityException(`Layer "${name}" shows a clip: ${error.message}`);
          })
        : own;
      if (film.row.projectId !== own.row.projectId)
        throw new UnprocessableEntityException(`Layer "${name}" shows a clip of another project.`);
      films.set(content.clip, film);
    }
    return films;
  }

  /** What fills edges goes by all tracks near by, whether they have a say in the motion or not. */
  private async tracksNear({ id, frames, steady }: ReadyClip['row']): Promise<Samples[]> {
    if (steady.edge !== 'fill') return [];
    return (await this.clips.namedTracks(id, frames)).map(({ samples }) => samples);
  }

  private async steadied(
    clip: ReadyClip,
    solved: SteadyResult,
    { comparison, only }: Pick<ExportRequest, 'comparison' | 'only'>,
  ): Promise<Making> {
    const { row, media } = clip;
    const { steady } = row;
    const { first, last } = steady.range;
    const tracks = await this.tracksNear(row);
    const dressing = (await this.dressing(clip)).map((step) => ({ ...step, only }));
    if (!comparison) {
      // Beyond the frame there is no layer.
      const edge = only === 'layers' ? 'transparent' : only ? 'black' : steady.edge;
      return {
        steps: [...dressing, placeStep(solved, media, { ...steady, edge }, tracks)],
        ...{ first, last, called: only ?? (steady.mode === 'hold' ? 'held' : 'smoothed') },
      };
    }
    const { layout, words } = comparison;
    // Two pictures together have no transparency.
    const edge = steady.edge === 'transparent' ? 'black' : steady.edge;
    return {
      steps: [
        ...dressing,
        placeStep(solved, media, { ...steady, edge }, tracks),
        { kind: 'pair', layout, after: 'made', first },
      ],
      words: words ? pairWords[layout] : [],
      ...{ first, last, called: 'compared' },
    };
  }

  /** The clip with what was treated of it put back where it was. */
  private async givenBack(
    { row, media }: ReadyClip,
    solved: SteadyResult,
    treatedId: string,
  ): Promise<Making> {
    const treated = await this.clips.readable(treatedId);
    if (treated.row.projectId !== row.projectId || treatedId === row.id)
      throw new UnprocessableEntityException('A treated movie is another clip of the same project.');
    const { first, last } = row.steady.range;
    const { width, height } = outputOf(viewOf(media, row.steady.output));
    const trouble = treatedTrouble(
      { ...treated.media, name: `"${treated.row.name}"`, frames: treated.row.frames },
      { width, height, frames: last - first + 1 },
    );
    if (trouble) throw new UnprocessableEntityException(trouble);
    return {
      steps: [{ kind: 'give-back', placements: solved.placements, rows: solved.rows, first, last }],
      beside: { clip: treated.media, index: treated.index, first: 0, from: first },
      ...{ first: 0, last: row.frames - 1, called: 'given-back' },
    };
  }

  /** A new folder for pictures, below the one that the server was given. */
  private async folderFor(name: string, { container }: Encoding): Promise<string> {
    const { exports } = this.options;
    if (exports === null)
      throw new UnprocessableEntityException(
        'This server was started without a folder for exports: start it with --exports DIR, or take the pictures as a zip.',
      );
    if (container !== 'png')
      throw new UnprocessableEntityException(
        'Only pictures go to a folder: choose PNG, or leave the folder out.',
      );
    if (!folderName.test(name)) throw new UnprocessableEntityException(`"${name}" is no name of one folder.`);
    const path = join(exports, name);
    const held = await readdir(path).catch(() => []);
    if (held.length > 0)
      throw new UnprocessableEntityException(`There is something in ${path} already: choose another name.`);
    await mkdir(exports, { recursive: true });
    await rm(path, { recursive: true, force: true });
    return `${path}/`;
  }

  /** What is about a layer on a frame, measured on the original. */
  async around(clipId: string, frame: number, layerId: string): Promise<Match> {
    const clip = await this.clips.readable(clipId);
    const { media, index } = clip;
    if (frame < 0 || frame >= index.pts.length)
      throw new UnprocessableEntityException(`There is no frame ${frame} in this clip.`);
    const layers = (await this.dressing(clip)).flatMap((step) => step.layers);
    const operation = operationsAt(layers, frame).find((one) => one.layerId === layerId);
    if (!operation)
      throw new UnprocessableEntityException(
        `The layer is not seen on frame ${frame}: there is nothing about it.`,
      );
    let found: Match | null = null;
    await this.jobs.atHand.run(
      { kind: 'around', clip: media, index, mask: operation.mask, frame },
      (news) => {
        if ('around' in news) found = news.around;
      },
      { limit: patience },
    );
    return found as unknown as Match;
  }

  /** One frame as it will be in the movie. */
  async steadiedFrame(clip: ReadyClip, frame: number, format: 'png' | 'tiff'): Promise<Buffer> {
    const { media, index, row } = clip;
    const solved = await this.solve(clip);
    const step = placeStep(solved, media, row.steady, await this.tracksNear(row));
    const steps = [...(await this.dressing(clip)), step];
    const encoding = encodingFor({ codec: 'png' }, media, step.edge === 'transparent');
    const folder = await mkdtemp(join(this.options.data, 'still-'));
    try {
      const path = join(folder, `${randomUUID()}/`);
      await this.jobs.atHand.run(
        { kind: 'export', clip: media, index, first: frame, last: frame, steps, encoding, path },
        () => undefined,
        { limit: patience },
      );
      const picture = join(path, '000000.png');
      return format === 'png' ? await readFile(picture) : await stillAs(picture, format);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }
}
