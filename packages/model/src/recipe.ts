import {
  cornersFromCentre,
  FormatError,
  modelOf,
  pageLength,
  Samples,
  SampleState,
  soloed,
  type Areas,
  type FollowOptions,
  type Layer,
  type Offset,
  type Region,
  type SceneChoice,
  type SteadySettings,
} from '@lurn/core';
import { readLayer } from './layer/layer.js';
import { read } from './read.js';
import { readRegion } from './region.js';
import { SceneRecord } from './scene.js';
import { steadyAsToday, steadyFault, SteadyRecord } from './steady.js';
import { trackAsToday, TrackRecord } from './track.js';

/** A record as project files have it. */
export interface RecipeRecord {
  kind: string;
  id: string;
  view: object;
}

/** A place that was set by hand. */
export interface RecipeKey {
  frame: number;
  x: number;
  y: number;
  rotation: number;
  scale: number;
  /** Left out where a similarity tells all. */
  stretch?: number;
  shear?: number;
  tiltX?: number;
  tiltY?: number;
}

/** A track of a recipe: how it is followed, from which keys; with its samples where those came along. */
export interface RecipeTrack {
  /** By which layers name it. */
  id: string;
  name: string;
  used: boolean;
  options: FollowOptions;
  offsets: readonly Offset[];
  keys: readonly RecipeKey[];
  samples: Samples | null;
  /** What is followed, where it is a flat area; what holds parts of it out may ride on other tracks of the recipe. */
  region: Region | null;
}

/** All that was chosen for a clip. */
export interface Recipe {
  clip: { name: string; width: number; height: number; frames: number };
  /** Null where it says nothing of steadying. */
  steady: SteadySettings | null;
  tracks: readonly RecipeTrack[];
  /** How the whole picture's motion is found and what of it is held; null where it is not used. */
  scene: { areas: Areas; choices: readonly SceneChoice[] } | null;
  /** The top one first. */
  layers: readonly Layer[];
}

/** What is written of one track besides its record. */
export interface RecipeSamples {
  keys: readonly RecipeKey[];
  /** Packed pages, where all samples are to come along. */
  pages?: readonly { page: number; bytes: string }[];
}

/**
 * All that was chosen for a clip as open JSON: format `lurn-recipe`, version 1. Records are in the project file's own form; of
 * samples there are the keys, by track, and pages in base64 where they are asked for.
 */
export const writeRecipe = (
  clip: Recipe['clip'],
  records: readonly RecipeRecord[],
  samples: Readonly<Record<string, RecipeSamples>>,
): string =>
  JSON.stringify({ format: 'lurn-recipe', version: 1, clip: sizeOf(clip), records, samples }, null, 1);

const sizeOf = ({ name, width, height, frames }: Recipe['clip']): Recipe['clip'] => ({
  name,
  width,
  height,
  frames,
});

/** A track's samples with nothing but its keys, to be followed from. */
export function samplesOfKeys(keys: readonly RecipeKey[], frames: number): Samples {
  const samples = new Samples(frames);
  for (const { frame, ...key } of keys)
    samples.set(frame, { ...key, confidence: 1, state: SampleState.placed });
  return samples;
}

/** The keys of a track, as a recipe has them. */
export const recipeKeys = (samples: Samples): RecipeKey[] =>
  samples.keys().map((frame) => ({
    frame,
    x: samples.x[frame],
    y: samples.y[frame],
    rotation: samples.rotation[frame],
    scale: samples.scale[frame],
    stretch: samples.stretch[frame] || undefined,
    shear: samples.shear[frame] || undefined,
    tiltX: samples.tiltX[frame] || undefined,
    tiltY: samples.tiltY[frame] || undefined,
  }));

/**
 * Reads a recipe for a clip. Throws a FormatError that names what is wrong when it is none, or when the clip has another size:
 * keys are in its pixels. A clip of another length is taken as far as it goes.
 */
export function readRecipe(
  text: string,
  clip: Pick<Recipe['clip'], 'width' | 'height' | 'frames'>,
  unpacked: (base64: string) => Uint8Array,
): Recipe {
  let file: {
    format?: unknown;
    version?: unknown;
    clip?: Recipe['clip'];
    records?: RecipeRecord[];
    samples?: object;
  };
  try {
    file = JSON.parse(text) as typeof file;
  } catch (error) {
    throw new FormatError(`The recipe is not valid JSON: ${(error as Error).message}`);
  }
  if (file?.format !== 'lurn-recipe')
    throw new FormatError('This is not a recipe: its "format" is not "lurn-recipe".');
  if (file.version !== 1)
    throw new FormatError(`This recipe is of version ${String(file.version)}; only version 1 can be read.`);
  if (!file.clip || !Array.isArray(file.records))
    throw new FormatError('The recipe names no clip, or no records.');
  if (file.clip.width !== clip.width || file.clip.height !== clip.height)
    throw new FormatError(
      `This recipe was made for a clip of ${String(file.clip.width)}×${String(file.clip.height)} pixels; this clip has ${clip.width}×${clip.height}.`,
    );
  const samples = (file.samples ?? {}) as Record<string, RecipeSamples | undefined>;
  const steady = file.records.find(({ kind }) => kind === 'steady');
  const scene = file.records.find(({ kind }) => kind === 'scene');
  return {
    clip: file.clip,
    steady: steady ? steadyFrom(steady.view, file.clip.frames, clip.frames) : null,
    layers: layersFrom(file.records, clip.frames),
    scene: scene ? sceneFrom(scene.view) : null,
    tracks: file.records
      .filter(({ kind }) => kind === 'track')
      .map(({ id, view }) => trackFrom(id, view, samples[id], clip.frames, unpacked)),
  };
}

function trackFrom(
  id: string,
  view: object,
  found: RecipeSamples | undefined,
  frames: number,
  unpacked: (base64: string) => Uint8Array,
): RecipeTrack {
  const named = `The recipe's track "${String((view as { name?: unknown }).name)}"`;
  const today = trackAsToday({ position: 0, ...view });
  // What is drawn of a region may be told in part.
  const region = today.region ? readRegion(today.region, today.name) : null;
  const track = read(TrackRecord, { ...today, id, region }, named, { strict: false });
  const { name, used, template, search, channel, filter, fields, below, threshold, longestGap } = track;
  const keys = found?.keys ?? [];
  const isKey = (key: Partial<RecipeKey> | null): boolean =>
    [key?.frame, key?.x, key?.y].every(Number.isFinite);
  if (!Array.isArray(keys) || !keys.every(isKey))
    throw new FormatError(`The keys of the recipe's track "${name}" cannot be read.`);
  const samples = found?.pages ? samplesIn(found.pages, frames, unpacked, name) : null;
  if (region && samples) samples.corners = cornersFromCentre(region);
  return {
    id,
    name,
    used,
    options: {
      ...{ template, search, model: modelOf(track.shape), analysis: { channel, filter, fields } },
      ...{ below, threshold, longestGap },
    },
    offsets: track.offsets.filter(({ frame }) => frame < frames),
    keys: keys.filter(({ frame }) => Number.isInteger(frame) && frame >= 0 && frame < frames),
    samples,
    region,
  };
}

/** The layers in their order; where some stand alone the others are hidden. */
function layersFrom(records: readonly RecipeRecord[], frames: number): Layer[] {
  const views = records
    .filter(({ kind }) => kind === 'layer')
    .map(({ id, view }) => ({ ...(view as { position?: number; solo?: boolean }), id }))
    .sort((a, b) => (a.position ?? 0) - (b.position ?? 0));
  const tracks = new Set(records.filter(({ kind }) => kind === 'track').map(({ id }) => id));
  const layers = views.map((view) => {
    const layer = readLayer(view, frames);
    const stranger = layer.carrier.kind === 'tracks' && layer.carrier.trackIds.find((id) => !tracks.has(id));
    if (stranger)
      throw new FormatError(
        `Layer "${layer.name}": it is carried by "${stranger}", which is no track of the recipe.`,
      );
    const { matte } = layer;
    if (matte && 'regionId' in matte && !tracks.has(matte.regionId))
      throw new FormatError(
        `Layer "${layer.name}": what holds out of "${matte.regionId}" is to hold it out, which is no track of the recipe.`,
      );
    return { ...layer, solo: view.solo };
  });
  return soloed(layers);
}

function samplesIn(
  pages: NonNullable<RecipeSamples['pages']>,
  frames: number,
  unpacked: (base64: string) => Uint8Array,
  name: string,
): Samples {
  const samples = new Samples(frames);
  try {
    for (const { page, bytes } of pages)
      if (page * pageLength < frames) samples.unpackPage(page, unpacked(bytes));
  } catch (error) {
    throw new FormatError(
      `The samples of the recipe's track "${name}" cannot be read: ${(error as Error).message}`,
    );
  }
  return samples;
}

function sceneFrom(view: object): Recipe['scene'] {
  const fresh = { id: '', name: 'Scene', used: false, hidden: false, foundAt: '', shots: [] };
  const scene = read(SceneRecord, { ...fresh, ...view }, "The recipe's scene", { strict: false });
  if (!scene.used) return null;
  const { within, without, shots } = scene;
  return { areas: { within, without }, choices: shots.map(({ group, depth }) => ({ group, depth })) };
}

/** What is chosen about steadying, for a clip of another length: what went over all of it does so again. */
function steadyFrom(view: object, before: number, frames: number): SteadySettings {
  const named = 'What the recipe says of steadying';
  const steady = read(SteadyRecord, steadyAsToday({ referenceFrame: 0, ...view }), named, { strict: false });
  const fault = steadyFault(steady, Infinity);
  if (fault) throw new FormatError(`${named}: ${fault}`);
  const end = frames - 1;
  const last = steady.range.last === before - 1 ? end : Math.min(steady.range.last, end);
  return {
    ...steady,
    spans: steady.spans
      .filter((span) => span.first <= end)
      .map((span) => ({ ...span, last: Math.min(span.last, end) })),
    keys: steady.keys.filter((key) => key.frame <= end),
    referenceFrame: Math.min(steady.referenceFrame, end),
    range: { first: Math.min(steady.range.first, last), last },
  };
}
