import {
  apply,
  carriedRegion,
  carryBy,
  cornersFromCentre,
  defaultFollowOptions,
  faultOf,
  invert,
  matrixAt,
  regionOn,
  Samples,
  SampleState,
  type HoldOut,
  type NamedTrack,
  type Quad,
  type Region,
  type SteadyClip,
} from '@lurn/core';
import { frameTimes, type Clip, type ClipIndex } from '@lurn/media';
import { trackClip, type TrackRun } from '@lurn/pipeline';
import type { FrameRange, HoldOutArgument, QuadArgument, RegionArgument } from './arguments.js';
import { followingOf, type Following } from './follow-arguments.js';
import { Progress } from './progress.js';
import { UsageError } from './usage-error.js';

/** Flat areas as the command line has them. */
export interface RegionArguments {
  region: RegionArgument[];
  holdOut: HoldOutArgument[];
  quad: QuadArgument[];
}

/** A flat area and what it has of the clip; `region`'s hold-outs name tracks by their names. */
export interface NamedRegion extends NamedTrack {
  region: Region;
}

/** Regions of the same name are one, with several outlines; its first frame is the one it is drawn on. */
export function regionsFrom(
  args: RegionArguments,
  clip: Clip,
  frames: number,
  points: readonly string[],
): NamedRegion[] {
  const names = [...new Set(args.region.map(({ name }) => name))];
  const known = [...points, ...names];
  const holdOuts = args.holdOut.map(({ frame, spline, track }): HoldOut => {
    if (track !== null && !known.includes(track))
      throw new UsageError(`There is no track "${track}" for a hold-out to ride on.`);
    return { frame, spline, ...(track !== null && { trackId: track }) };
  });
  const stray = args.quad.find(({ name }) => !names.includes(name));
  if (stray) throw new UsageError(`There is no region "${stray.name}" for this quad.`);
  const beyond = [...args.region, ...args.holdOut, ...args.quad].find(({ frame }) => frame >= frames);
  if (beyond)
    throw new UsageError(
      `Frame ${beyond.frame} is beyond the clip's end; its frames are 0 to ${frames - 1}.`,
    );
  return names.map((name) => {
    const own = args.region.filter((one) => one.name === name);
    const { frame } = own[0];
    if (own.some((one) => one.frame !== frame))
      throw new UsageError(`The outlines of region "${name}" lie on several frames; give them on one.`);
    const quad = args.quad.find((one) => one.name === name && one.frame === frame)?.corners;
    const region = {
      ...regionOn(
        frame,
        own.map(({ spline }) => spline),
        quad,
      ),
      holdOuts: holdOuts.filter(({ trackId }) => trackId !== name),
    };
    const fault = faultOf(region, `Region "${name}"`, clip);
    if (fault) throw new UsageError(fault);
    const samples = new Samples(frames);
    const { x, y } = region.centre;
    samples.set(frame, { x, y, confidence: 1, rotation: 0, scale: 1, state: SampleState.placed });
    samples.corners = cornersFromCentre(region);
    return { name, samples, region };
  });
}

/** Follows regions through a clip, all that can be in one pass; those that something carried holds out come after what carries it. `others` are the tracks that their hold-outs may ride on. */
export async function followRegions(
  clip: Clip,
  index: ClipIndex,
  regions: readonly NamedRegion[],
  others: readonly NamedTrack[],
  args: Following & { range: FrameRange | null },
): Promise<void> {
  const facts = steadyClip(clip, index);
  const options = { ...defaultFollowOptions, ...followingOf(args) };
  await followInTurn(regions, others, async (due, known) => {
    const progress = new Progress('Tracking', null);
    const runs = due.map(({ samples, region }): TrackRun => ({
      samples,
      from: region.frame,
      options: { ...options, region: carriedRegion(region, known, facts) },
    }));
    await trackClip({
      clip,
      index,
      runs,
      direction: 'both',
      first: args.range?.first ?? 0,
      last: args.range?.last ?? index.pts.length - 1,
      onProgress: progress.update,
    }).finally(() => progress.end());
  });
}

/** Has regions followed in as few passes as what holds them out allows. */
export async function followInTurn<R extends NamedRegion>(
  regions: readonly R[],
  others: readonly NamedTrack[],
  follow: (due: R[], known: ReadonlyMap<string, Samples>) => Promise<void>,
): Promise<void> {
  const known = new Map(others.map(({ name, samples }) => [name, samples]));
  let waiting = [...regions];
  while (waiting.length > 0) {
    const isReady = ({ region }: R): boolean =>
      region.holdOuts.every(({ trackId }) => trackId === undefined || known.has(trackId));
    const due = waiting.filter(isReady);
    if (due.length === 0)
      throw new UsageError(`Region "${waiting[0].name}" is held out by a track that waits for it in turn.`);
    await follow(due, known);
    for (const { name, samples } of due) known.set(name, samples);
    waiting = waiting.filter((one) => !due.includes(one));
  }
}

/** What of a clip a motion goes by. */
export const steadyClip = (clip: Clip, index: ClipIndex): SteadyClip => ({
  width: clip.width,
  height: clip.height,
  pixelAspect: clip.pixelAspect,
  times: frameTimes(index, clip),
});

/** Quads that were given on other frames than their region's lie where the motion carries them from there. */
export function layQuads(
  regions: readonly NamedRegion[],
  quads: readonly QuadArgument[],
  clip: SteadyClip,
): NamedRegion[] {
  return regions.map((one) => {
    const quad = quads.find(({ name, frame }) => name === one.name && frame !== one.region.frame);
    if (!quad) return one;
    if (!one.samples.found(quad.frame))
      throw new UsageError(
        `Region "${one.name}" was not found on frame ${quad.frame}, where its quad was laid.`,
      );
    const back = invert(matrixAt(carryBy([one.samples], clip, one.region.frame), quad.frame));
    const region = {
      ...one.region,
      quad: quad.corners.map(({ x, y }) => apply(back, x, y)) as unknown as Quad,
    };
    one.samples.corners = cornersFromCentre(region);
    return { ...one, region };
  });
}
