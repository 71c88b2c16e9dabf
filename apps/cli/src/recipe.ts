import { readFile } from 'node:fs/promises';
import {
  carriedRegion,
  type Region,
  cornersFromCentre,
  Samples,
  splitPages,
  tracksUnder,
  type NamedTrack,
  type PackedPage,
} from '@lurn/core';
import {
  readRecipe,
  recipeKeys,
  samplesOfKeys,
  writeRecipe,
  type Recipe,
  type RecipeRecord,
  type RecipeSamples,
} from '@lurn/model';
import { eachEntry, type Clip, type ClipIndex } from '@lurn/media';
import { trackClip, type TrackRun } from '@lurn/pipeline';
import { describeLoss } from './follow.js';
import { followInTurn, steadyClip } from './regions.js';
import { Progress } from './progress.js';
import { UsageError } from './usage-error.js';

const mostJson = 50e6;
const mostPages = 200e6;

/** Prints all that was chosen for a clip of a project file. */
export async function recipe(
  project: string,
  clipName: string,
  { samples: withSamples = false }: { samples?: boolean },
): Promise<void> {
  const { file, pages } = await readProject(project);
  const clip = file.clips.find(({ name }) => name === clipName);
  if (!clip) {
    const names = file.clips.map(({ name }) => `"${name}"`).join(', ');
    throw new UsageError(`There is no clip "${clipName}" in this project; it has ${names || 'none'}.`);
  }
  const { width, height } = clip.media;
  const samples: Record<string, RecipeSamples> = {};
  for (const { kind, id } of clip.records) {
    if (kind !== 'track') continue;
    const own = new Samples(clip.frames);
    const packed = pages.get(`pages/${id}/samples`) ?? [];
    for (const { page, bytes } of packed) own.unpackPage(page, bytes);
    const whole = packed.map(({ page, bytes }) => ({ page, bytes: Buffer.from(bytes).toString('base64') }));
    samples[id] = { keys: recipeKeys(own), ...(withSamples ? { pages: whole } : {}) };
  }
  console.log(writeRecipe({ name: clip.name, width, height, frames: clip.frames }, clip.records, samples));
}

interface ProjectFile {
  format: string;
  clips: { name: string; frames: number; media: Clip; records: RecipeRecord[] }[];
}

async function readProject(path: string): Promise<{ file: ProjectFile; pages: Map<string, PackedPage[]> }> {
  let text: string | null = null;
  const pages = new Map<string, PackedPage[]>();
  await eachEntry(path, async ({ name, bytes, read }) => {
    if (name === 'project.json' && bytes < mostJson) text = (await read()).toString();
    else if (name.startsWith('pages/') && name.endsWith('/samples') && bytes < mostPages)
      pages.set(name, splitPages(await read()) ?? []);
  });
  const file = text === null ? null : (JSON.parse(text) as ProjectFile);
  if (
    file?.format !== 'lurn-project' ||
    !Array.isArray(file.clips) ||
    !file.clips.every((c) => Array.isArray(c.records))
  )
    throw new UsageError(`${path} is no Lurn project of this version.`);
  return { file, pages };
}

/** Reads a recipe for a clip. */
export async function openRecipe(path: string, clip: Clip, frames: number): Promise<Recipe> {
  const text = await readFile(path, 'utf8');
  return readRecipe(text, { width: clip.width, height: clip.height, frames }, (base64) =>
    Buffer.from(base64, 'base64'),
  );
}

/** A track of a recipe, followed: whether it has a say in steadying, and by what layers name it. */
export type FollowedTrack = NamedTrack & { id: string; used: boolean };

/** The regions among a recipe's tracks, by their ids. */
export const regionsOf = (tracks: Recipe['tracks']): Map<string, Region> =>
  new Map(tracks.flatMap(({ id, region }) => (region ? [[id, region] as const] : [])));

/** Follows a recipe's tracks anew, from their keys; those whose samples came along are taken as they are. Those that neither steady nor carry are left. */
export async function followRecipe(
  { tracks, layers }: Recipe,
  clip: Clip,
  index: ClipIndex,
): Promise<{ tracks: FollowedTrack[]; losses: string[] }> {
  const frames = index.pts.length;
  const carrying = tracksUnder(layers, regionsOf(tracks));
  // What holds parts of a region out is followed too, and what holds that out.
  const takeHoldOuts = (id: string): void => {
    const track = tracks.find((one) => one.id === id);
    for (const { trackId } of track?.region?.holdOuts ?? [])
      if (trackId !== undefined && !carrying.has(trackId)) {
        carrying.add(trackId);
        takeHoldOuts(trackId);
      }
  };
  for (const { id, used } of tracks) if (used || carrying.has(id)) takeHoldOuts(id);
  const used = tracks.filter(
    (track) => (track.used || carrying.has(track.id)) && (track.samples ?? track.keys.length > 0),
  );
  const named = used.map(({ id, used: counts, name, keys, samples }): FollowedTrack => {
    if (samples) return { id, used: counts, name, samples };
    return { id, used: counts, name, samples: samplesOfKeys(keys, frames) };
  });
  const due = used.flatMap(({ id, name, samples, keys, options, offsets, region }, i) => {
    const own = named[i].samples;
    if (region) own.corners = cornersFromCentre(region);
    return samples ? [] : [{ id, name, samples: own, from: keys[0].frame, options, offsets, region }];
  });
  const progress = new Progress('Tracking', null);
  // Tracks that begin on the same frame are followed in the same pass.
  const followAll = async (runs: readonly TrackRun[]): Promise<void> => {
    for (const from of new Set(runs.map((run) => run.from)))
      await trackClip({
        clip,
        index,
        runs: runs.filter((run) => run.from === from),
        direction: 'both',
        first: 0,
        last: frames - 1,
        onProgress: progress.update,
      }).finally(() => progress.end());
  };
  await followAll(due.filter(({ region }) => !region));
  const facts = steadyClip(clip, index);
  const regions = due.flatMap((run) => (run.region ? { ...run, region: run.region } : []));
  const known = named.filter(({ id }) => regions.every((region) => region.id !== id));
  await followInTurn(
    regions.map((run) => ({ ...run, name: run.id })),
    known.map(({ id, samples }) => ({ name: id, samples })),
    (now, carriers) =>
      followAll(
        now.map((run) => ({
          ...run,
          options: { ...run.options, region: carriedRegion(run.region, carriers, facts) },
        })),
      ),
  );
  return {
    tracks: named,
    losses: named.flatMap((track) => describeLoss(track, { first: 0, last: frames - 1 })),
  };
}
