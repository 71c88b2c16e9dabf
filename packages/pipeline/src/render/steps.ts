import {
  bareBoxes,
  carriedBy,
  dressPicture,
  fillFrames,
  filmsAt,
  identity,
  invert,
  layersAlone,
  layingBytes,
  LayingRoom,
  matteAlone,
  matrixAt,
  pairFormat,
  PairPictures,
  pairScratchBytes,
  pictureBytes,
  warpPicture,
  OutputPictures,
  operationsAt,
  patchFrames,
  outputFormat,
  outputOf,
  resamplingNames,
  viewOf,
  windowOf,
  scratchBytes,
  type Carried,
  type CarriedLayer,
  type EdgeKind,
  type Interpolation,
  type Kernels,
  type LayerPicture,
  type Mat3,
  type Motion,
  type OtherFrame,
  type OutputOptions,
  type PairLayout,
  type PictureSize,
  type PixelBox,
  type Placing,
  type Samples,
  type SteadiedFrames,
  type SteadySettings,
  type UnfilledKind,
  type YuvFormat,
} from '@lurn/core';
import type { Clip, ClipIndex } from '@lurn/media';
import { readPatches } from './patches.js';
import { FilmReader, filmSize } from './film-reader.js';

/**
 * Makes one picture of another, and where a second clip runs beside of its picture, too; all are addresses of whole pictures in
 * the kernels' memory.
 */
export type RenderStep = (
  frame: number,
  from: number,
  to: number,
  beside: number,
  /** Where the picture of another frame of the clip is; null where it is not at hand. */
  around: (frame: number) => number | null,
) => void;

/** What makes pictures; where it needs something of a frame that has to be waited for, that is asked for before. */
export interface StartedStep {
  make: RenderStep;
  prepare?: (frame: number) => Promise<void>;
  close?: () => Promise<void>;
}

/** Puts each frame where its placement has it, by one resampling, into an output of its own size. */
export interface PlaceStep extends Placing {
  kind: 'place';
  interpolation: Interpolation;
  /** What bare edges show. */
  edge: EdgeKind;
  unfilled?: UnfilledKind;
  size: PictureSize;
  /** Output pixels to a source pixel where there are fewest. */
  scale: number;
  /** How frames lie to each other, where bare edges are filled from others. */
  carried: Carried | null;
}

/** Puts what was treated in its held form back where it was: the frame's picture beyond its reach, with a soft seam. */
export interface GiveBackStep extends Placing {
  kind: 'give-back';
  /** The frames that were treated, both included; the others stay as they are. */
  first: number;
  last: number;
}

/** The placements of a motion file as a table of all frames of its clip; those it does not list stand still. */
export function placementsFrom({ first, outputFromFrame }: SteadiedFrames, frames: number): Float64Array {
  const placements = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) placements.set(identity, 9 * k);
  placements.set(outputFromFrame, 9 * first);
  return placements;
}

/** Shows each frame as the clip has it, or as the steps before this one have made it, together with what was made of it. */
export interface PairStep {
  kind: 'pair';
  layout: PairLayout;
  /** What was made: the clip that runs beside, or the picture as it is by now. */
  after: 'beside' | 'made';
  /** The frame that is the first, from which a wipe is counted. */
  first: number;
}

/** The step that does what is chosen about steadying a clip, once that is solved. */
export function placeStep(
  { placements, rows, zooms, motion }: Placing & { zooms: Float64Array | null; motion?: Motion },
  clip: PictureSize & { pixelAspect: string },
  {
    framing,
    output,
    edge = 'black',
    unfilled,
    resampling = 'bicubic',
  }: Pick<SteadySettings, 'framing' | 'output' | 'edge' | 'unfilled' | 'resampling'>,
  /** Near which what fills an edge goes by them. */
  tracks: readonly Samples[] = [],
): PlaceStep {
  const view = viewOf(clip, output);
  const [size, window] = [outputOf(view), windowOf(view)];
  const zoom = zooms ? Math.min(...zooms) : framing.zoom;
  const scale = zoom * Math.min(size.width / window.width, size.height / window.height);
  const carried = edge === 'fill' && motion ? carriedBy(motion, tracks) : null;
  const interpolation = resamplingNames[resampling];
  return { kind: 'place', placements, rows, interpolation, edge, unfilled, size, scale, carried };
}

/** Draws layers onto the picture, where it lies. */
export interface DressStep {
  kind: 'dress';
  layers: readonly CarriedLayer[];
  /** The pictures that layers show, by the names that they go by. */
  pictures: ReadonlyMap<string, LayerPicture>;
  /** In place of the picture: the layers by themselves, with alpha, or how much of each pixel they cover. */
  only?: 'layers' | 'matte';
  /** The clips that they show, by theirs. */
  films?: ReadonlyMap<string, { clip: Clip; index: ClipIndex }>;
}

/** A step as it is asked for; it can be cloned to another thread. */
export type StepOrder = PlaceStep | GiveBackStep | PairStep | DressStep;

/** A step on pictures of a format: what comes of it, the bytes that it needs aside, and how it is made. */
export interface PlannedStep {
  format: YuvFormat;
  /** Frames before and after its own that it asks for. */
  reach?: number;
  scratch: number;
  start: (kernels: Kernels, scratch: number, signal?: AbortSignal) => StartedStep;
}

/** Frames before and after that fill edges, at most, and the bytes that they may take together. */
const mostReach = 24;
const fillBudget = 320e6;

const reachOf = (source: YuvFormat): number =>
  Math.max(2, Math.min(mostReach, Math.floor(fillBudget / pictureBytes(source) / 2)));

/** The frames that fill edges, as far as they are at hand. */
function fillersOf(
  carried: Carried,
  frame: number,
  matrix: Mat3,
  boxes: readonly PixelBox[],
  source: YuvFormat,
  around: (frame: number) => number | null,
): OtherFrame[] {
  if (boxes.length === 0) return [];
  return fillFrames(carried, frame, matrix, boxes, source, reachOf(source)).flatMap((other) => {
    const at = around(other.frame);
    return at === null ? [] : [{ at, outputFromFrame: other.outputFromFrame }];
  });
}

/** Treated pixels over which the seam is soft. */
const feather = 6;

const planners: {
  [K in StepOrder['kind']]: (
    order: Extract<StepOrder, { kind: K }>,
    source: YuvFormat,
    beside: YuvFormat,
    clip: YuvFormat,
  ) => PlannedStep;
} = {
  'give-back': ({ placements, rows, first, last }, source, beside) => ({
    format: source,
    scratch: 0,
    start: (kernels) => ({
      make: (frame, from, to, treated) => {
        const below = { at: from, format: source };
        const drawn = { at: to, format: source };
        new Uint8Array(kernels.memory.buffer).copyWithin(to, from, from + pictureBytes(source));
        if (frame < first || frame > last) return;
        const frameFromOutput = invert(matrixAt(placements, frame));
        warpPicture(kernels, { at: treated, format: beside }, drawn, frameFromOutput, {
          interpolation: 'lanczos',
          beyond: 'kept',
          byRows: rows && { rows, frame, of: 'target' },
          seam: { below, feather },
        });
      },
    }),
  }),
  dress: ({ layers, pictures, only, films = new Map<string, never>() }, source) => {
    const patches = layers.flatMap(({ layer, box }) =>
      box
        ? patchFrames(layer).map(() => ({ width: box.right - box.left, height: box.bottom - box.top }))
        : [],
    );
    const sizes = [
      ...pictures.values(),
      ...patches,
      ...[...films.values()].map(({ clip }) => filmSize(clip)),
    ];
    const bytesToLay = layingBytes(source, sizes);
    return {
      format: only === 'layers' ? { ...source, alpha: true } : source,
      scratch: bytesToLay,
      start: (kernels, scratch, signal) => {
        const { memory } = kernels;
        const room = new LayingRoom(kernels, source, scratch, bytesToLay);
        const bytes = pictureBytes(source);
        const withAlpha = pictureBytes({ ...source, alpha: true });
        const levels = (at: number, count = bytes): Uint8Array | Uint16Array =>
          source.bits === 8
            ? new Uint8Array(memory.buffer, at, count)
            : new Uint16Array(memory.buffer, at, count / 2);
        const matte = only && new Float32Array(source.width * source.height);
        // Layers that show one clip at different frames each read it for themselves.
        const readers = new Map<CarriedLayer, FilmReader>();
        for (const one of layers) {
          const { content } = one.layer;
          const film = content.kind === 'clip' ? films.get(content.clip) : undefined;
          if (film) readers.set(one, new FilmReader(film.clip, film.index, signal));
        }
        const shown = new Map(pictures);
        const own = films.get('');
        let patched = false;
        return {
          prepare: async (frame) => {
            if (!patched && own)
              for (const [name, picture] of await readPatches(layers, own.clip, own.index, signal))
                shown.set(name, picture);
            patched = true;
            for (const [one, reader] of readers) {
              const [film] = filmsAt([one], frame);
              if (film) shown.set(film.name, await reader.at(film.frame));
            }
          },
          make: (frame, from, to) => {
            new Uint8Array(memory.buffer).copyWithin(to, from, from + bytes);
            matte?.fill(0);
            dressPicture(levels(to), source, operationsAt(layers, frame), shown, undefined, matte, room);
            if (matte && only === 'matte') matteAlone(levels(to), source, matte);
            else if (matte) layersAlone(levels(to, withAlpha), levels(from), source, matte);
            for (const film of filmsAt(layers, frame)) shown.delete(film.name);
          },
          close: async () => {
            for (const reader of readers.values()) await reader.close();
          },
        };
      },
    };
  },
  pair: ({ layout, first, after }, source, beside, clip) => {
    const [one, other] = after === 'beside' ? [source, beside] : [clip, source];
    return {
      format: pairFormat(layout, one, other),
      scratch: pairScratchBytes(layout, one, other),
      start: (kernels, scratch) => {
        const pictures = new PairPictures(kernels, layout, one, other, scratch);
        return {
          make: (frame, from, to, aside, around) => {
            if (after === 'beside') pictures.make(frame - first, from, aside, to);
            else pictures.make(frame - first, around(frame) ?? from, from, to);
          },
        };
      },
    };
  },
  place: ({ placements, rows, interpolation, edge, unfilled, size, scale, carried }, source) => {
    const options: OutputOptions = { source, size, interpolation, edge, unfilled, scale };
    return {
      format: outputFormat(options),
      scratch: scratchBytes(options),
      reach: carried ? reachOf(source) : 0,
      start: (kernels, scratch) => {
        const pictures = new OutputPictures(kernels, options, scratch);
        return {
          make: (frame, from, to, _, around) => {
            const matrix = matrixAt(placements, frame);
            const byRows = rows && { rows, frame };
            const others = carried
              ? fillersOf(carried, frame, matrix, bareBoxes(matrix, byRows, source, size), source, around)
              : [];
            pictures.make(from, to, matrix, byRows, others);
          },
        };
      },
    };
  },
};

type Planner = (order: StepOrder, source: YuvFormat, beside: YuvFormat, clip: YuvFormat) => PlannedStep;

/** Plans a step on pictures of a format, where another clip runs beside, of a clip. */
export const planStep: Planner = (order, source, beside, clip) =>
  (planners[order.kind] as Planner)(order, source, beside, clip);
