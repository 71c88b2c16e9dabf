import { resamplingNames } from '../kernels/kernels.js';
import { edgeKinds, unfilledKinds } from '../render/output-picture.js';
import { motionModels } from '../solve/fit-model.js';
import { easings } from '../steady/easing.js';
import { spanKinds } from '../steady/spans.js';
import { rollingShutterModes, smoothKinds, type SteadySettings } from '../steady/steady.js';
import {
  belowChoices,
  modelOf,
  shapes,
  type FollowOptions,
  type Offset,
  type Shape,
} from '../track/options.js';
import { channels, fieldChoices, filters, type Analysis } from '../track/image/analysis.js';
import { pageLength, Samples, SampleState } from '../track/samples.js';
import type { Areas } from '../track/areas.js';
import type { SceneChoice } from '../solve/hold-group.js';
import { soloed, type Layer } from '../dress/layer.js';
import { readLayer } from './layer-record.js';
import { cornersFromCentre, type Region } from '../track/region/region.js';
import { readRegion } from './region-record.js';
import { FormatError } from './format-error.js';

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
      .map(({ id, view }) => trackFrom(id, view as Partial<TrackRecord>, samples[id], clip.frames, unpacked)),
  };
}

interface TrackRecord extends Analysis {
  name: string;
  used: boolean;
  template: FollowOptions['template'];
  search: FollowOptions['search'];
  shape: Shape;
  below: FollowOptions['below'];
  threshold: number;
  longestGap: number;
  offsets: Offset[];
  region?: unknown;
}

const isOneOf = (choices: readonly string[], value: unknown): boolean => choices.includes(value as string);
const isFinite = (...values: unknown[]): boolean => values.every(Number.isFinite);

function trackFrom(
  id: string,
  view: Partial<TrackRecord>,
  found: RecipeSamples | undefined,
  frames: number,
  unpacked: (base64: string) => Uint8Array,
): RecipeTrack {
  const { name, used = true, template, search, shape, channel, filter, fields, below } = view;
  const { threshold, longestGap, offsets = [] } = view;
  const sound =
    typeof name === 'string' &&
    isFinite(template?.width, template?.height, search?.width, search?.height, threshold, longestGap) &&
    isOneOf(shapes, shape) &&
    isOneOf(channels, channel) &&
    isOneOf(filters, filter) &&
    isOneOf(fieldChoices, fields) &&
    isOneOf(belowChoices, below) &&
    Array.isArray(offsets) &&
    offsets.every((o) => isFinite(o?.frame, o?.x, o?.y));
  if (!sound) throw new FormatError(`The recipe's track "${String(name)}" cannot be read.`);
  const given: unknown = found?.keys ?? [];
  const all = Array.isArray(given) ? (given as (Partial<RecipeKey> | null)[]) : null;
  if (!all?.every((key) => isFinite(key?.frame, key?.x, key?.y)))
    throw new FormatError(`The keys of the recipe's track "${name}" cannot be read.`);
  const full = view as TrackRecord;
  const region = full.region ? readRegion(full.region, name) : null;
  const samples = found?.pages ? samplesIn(found.pages, frames, unpacked, name) : null;
  if (region && samples) samples.corners = cornersFromCentre(region);
  return {
    id,
    name,
    used,
    options: {
      template: full.template,
      search: full.search,
      model: modelOf(full.shape),
      analysis: { channel: full.channel, filter: full.filter, fields: full.fields },
      below: full.below,
      threshold: full.threshold,
      longestGap: full.longestGap,
    },
    offsets: offsets.filter(({ frame }) => frame < frames),
    keys: (all as RecipeKey[]).filter(({ frame }) => Number.isInteger(frame) && frame >= 0 && frame < frames),
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
  const {
    used,
    within = [],
    without = [],
    shots = [],
  } = view as {
    used?: boolean;
    within?: Areas['within'];
    without?: Areas['without'];
    shots?: SceneChoice[];
  };
  if (!used) return null;
  return { areas: { within, without }, choices: shots.map(({ group, depth }) => ({ group, depth })) };
}

/** What is chosen about steadying, for a clip of another length: what went over all of it does so again. */
function steadyFrom(view: Partial<SteadySettings>, before: number, frames: number): SteadySettings {
  const { mode, kind, model, smoothSeconds, channels: out, strength, framing, range } = view;
  const { referenceFrame = 0, spans = [], keys = [], rollingShutter, within } = view;
  const { varying, output, edge = 'black', unfilled = 'mirror', resampling = 'bicubic' } = view;
  const sound =
    isOneOf(['hold', 'smooth'], mode) &&
    isOneOf(smoothKinds, kind) &&
    isOneOf(['auto', ...motionModels], model) &&
    isFinite(smoothSeconds, framing?.zoom, framing?.offsetX, framing?.offsetY) &&
    isFinite(strength?.x, strength?.y, strength?.rotation, strength?.scale, strength?.perspective) &&
    isFinite(range?.first, range?.last, referenceFrame) &&
    (rollingShutter === undefined ||
      (isOneOf(rollingShutterModes, rollingShutter.mode) && isFinite(rollingShutter.share))) &&
    (!within || isFinite(within.left, within.top, within.right, within.bottom)) &&
    (!varying || isFinite(varying.restlessness)) &&
    (!output || (Number.isInteger(output.width / 2) && Number.isInteger(output.height / 2))) &&
    isOneOf(edgeKinds, edge) &&
    isOneOf(unfilledKinds, unfilled) &&
    resampling in resamplingNames &&
    typeof out === 'object' &&
    spans.every((span) => isOneOf(spanKinds, span.kind) && isFinite(span.first, span.last, span.ease)) &&
    keys.every(
      (key) => isOneOf(easings, key.easing) && isFinite(key.frame, key.x, key.y, key.rotation, key.zoom),
    );
  if (!sound) throw new FormatError('What the recipe says of steadying cannot be read.');
  const whole = view as SteadySettings;
  const end = frames - 1;
  const last = whole.range.last === before - 1 ? end : Math.min(whole.range.last, end);
  return {
    ...whole,
    spans: spans
      .filter((span) => span.first <= end)
      .map((span) => ({ ...span, last: Math.min(span.last, end) })),
    keys: keys.filter((key) => key.frame <= end),
    referenceFrame: Math.min(referenceFrame, end),
    range: { first: Math.min(whole.range.first, last), last },
  };
}
