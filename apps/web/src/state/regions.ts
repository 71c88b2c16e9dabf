import type { LeftOutView, RegionPatch, RegionView, TrackView } from '@lurn/contract';
import {
  apply,
  holdOutSpline,
  identity,
  invert,
  multiply,
  translation,
  outlineAt,
  parsePixelAspect,
  placeIn,
  regionMatrix,
  transformSpline,
  withKey,
  type ClosedSpline,
  type Mat3,
  type Point,
} from '@lurn/core';
import { create } from 'zustand';
import { api } from '../api/client';
import { useDocument } from './document';
import { touch } from './drafts';
import { edit, place } from './editor';
import { usePlayhead } from './playhead';
import { newPointSettings, usePreferences } from './preferences';
import { useSelection } from './selection';

/** What dragging a corner of the quad means, and whether squares are drawn in it to judge by. */
export const useRegions = create<{
  corners: 'lay' | 'right';
  checked: boolean;
  /** What is left out of the selected one is shown over the picture; what that is on the frame that was looked at last. */
  showsLeftOut: boolean;
  leftOut: { trackId: string; frame: number; found: LeftOutView | null } | null;
  /** The held patch is shown beside its key. */
  compared: boolean;
}>(() => ({
  ...{ corners: 'lay', checked: false, showsLeftOut: false, leftOut: null, compared: false },
}));

/** Looks what of a region is left out on a frame. */
export async function lookForLeftOut(trackId: string, frame: number): Promise<void> {
  const view = await api.leftOut(trackId, frame).catch(() => null);
  const found = view && 'quads' in view ? (view as LeftOutView) : null;
  useRegions.setState({ leftOut: { trackId, frame, found } });
}

/** A region as it is on the frame shown, and how it got there from the frame that it was drawn on. */
export type RegionTrack = TrackView & { region: RegionView };

export const isRegion = (track: TrackView): track is RegionTrack => track.region !== null;

/** The selected track, where it is a region. */
export function selectedRegion(): RegionTrack | null {
  const { selected } = useSelection.getState();
  const track = useDocument.getState().tracks.find(({ id }) => id === selected);
  return track && isRegion(track) ? track : null;
}

/** From the frame that a region was drawn on to another, clip pixels; null where it has no place there. */
export function matrixOf({ id, region }: RegionTrack, frame: number): Mat3 | null {
  const { samples, clip } = useDocument.getState();
  const place = samples.get(id)?.get(frame);
  return place && clip
    ? regionMatrix(placeIn(place), region.centre, parsePixelAspect(clip.pixelAspect))
    : null;
}

const knotsOf = ({ knots }: ClosedSpline) => ({ knots: knots.map((knot) => ({ ...knot })) });

/** A new region, drawn on the frame that is shown. */
export async function drawRegion(spline: ClosedSpline): Promise<void> {
  const { frame } = usePlayhead.getState();
  const { settings } = newPointSettings(usePreferences.getState());
  const region = {
    frame,
    splines: [knotsOf(spline)],
    settings: { ...settings, shape: 'perspective' as const },
  };
  await place((clip, edits) => edits.drawRegion(clip.id, region));
}

/** Something that never counts for the selected region; it rides on the other track that is chosen, if one is. */
export function addHoldOut(spline: ClosedSpline): void {
  const track = selectedRegion();
  if (!track) return;
  const { chosen } = useSelection.getState();
  const other = [...chosen].find((id) => id !== track.id);
  const { frame } = usePlayhead.getState();
  const holdOut = { frame, spline: knotsOf(spline), ...(other !== undefined && { trackId: other }) };
  void changeRegion(track, { holdOuts: [...track.region.holdOuts, holdOut] });
}

/** Changes what is looked at, or the quad; seen at once. What was followed stays as it is. */
export function changeRegion(track: RegionTrack, patch: RegionPatch): Promise<unknown> {
  showRegion(track, patch);
  return touch({
    ...{ kind: 'track', id: track.id, part: { region: { ...track.region, ...patch } } },
    ...{ label: Object.keys(patch).join(), rest: 0 },
    send: (_, edits) => edits.changeTracks({ trackIds: [track.id], patch: { region: patch } }),
  });
}

/** Shows a change that is not made yet. */
export function showRegion({ id }: RegionTrack, patch: RegionPatch): void {
  useDocument.setState(({ tracks }) => ({
    tracks: tracks.map((track) =>
      track.id === id && track.region
        ? { ...track, region: { ...track.region, ...patch } as RegionView }
        : track,
    ),
  }));
}

/** Looks elsewhere from the frame shown on: the outlines that are in force there, to be changed by themselves. */
export function keyOutline(track: RegionTrack): void {
  const { frame } = usePlayhead.getState();
  const { outlines } = track.region;
  const here = outlineAt(outlines, frame);
  if (here.frame === frame) return;
  const all = [...outlines, { frame, splines: here.splines.map(knotsOf) }];
  void changeRegion(track, { outlines: all.sort((a, b) => a.frame - b.frame) });
}

/** One outline of those in force on a frame, put where a hand has drawn it on the frame shown. */
export function outlinesWith(
  track: RegionTrack,
  frame: number,
  part: number,
  drawn: ClosedSpline,
): RegionPatch {
  const { outlines } = track.region;
  const here = outlineAt(outlines, frame);
  return {
    outlines: outlines.map((one) =>
      one === here
        ? { ...one, splines: one.splines.map((spline, k) => (k === part ? knotsOf(drawn) : spline)) }
        : one,
    ),
  };
}

/** The quad with a corner elsewhere, as it lies on the frame that the region was drawn on. */
export function quadWith({ region }: RegionTrack, matrix: Mat3, corner: number, to: Point): RegionPatch {
  const back = apply(invert(matrix), to.x, to.y);
  return { quad: region.quad.map((p, i) => (i === corner ? back : p)) };
}

/** Puts a corner where it belongs on a frame: a key that what is followed passes through. */
export function putRight(
  track: RegionTrack,
  matrix: Mat3,
  corner: number,
  to: Point,
  frame: number,
): Promise<unknown> {
  const corners = track.region.quad.map((p, i) => (i === corner ? to : apply(matrix, p.x, p.y)));
  return edit((_, edits) => edits.setCorners(track.id, frame, { corners }));
}

type HoldOutView = RegionView['holdOuts'][number];

/** How a hold-out got to a frame from its own, as far as what carries it is known there. */
function holdOutMatrix({ frame: drawn, trackId }: HoldOutView, frame: number): Mat3 {
  const { tracks, samples } = useDocument.getState();
  const carrier = tracks.find(({ id }) => id === trackId);
  const own = trackId === undefined ? undefined : samples.get(trackId);
  if (!carrier || !own?.found(drawn) || !own.found(frame)) return identity;
  if (!isRegion(carrier)) return translation(own.x(frame) - own.x(drawn), own.y(frame) - own.y(drawn));
  const [from, to] = [matrixOf(carrier, drawn), matrixOf(carrier, frame)];
  return from && to ? multiply(to, invert(from)) : identity;
}

/** A hold-out where it lies on the frame shown. */
export const holdOutHere = (holdOut: HoldOutView, frame: number): ClosedSpline =>
  transformSpline(holdOutSpline(holdOut, frame), holdOutMatrix(holdOut, frame));

/** A region whose one hold-out is drawn otherwise on a frame: there alone where it is keyed, else on all. */
export function holdOutsWith(
  track: RegionTrack,
  place: number,
  frame: number,
  drawn: ClosedSpline,
): RegionPatch {
  return changedHoldOut(track, place, (one) => {
    const spline = knotsOf(transformSpline(drawn, invert(holdOutMatrix(one, frame))));
    return one.keys?.length ? { ...one, keys: withKey(one.keys, { frame, spline }) } : { ...one, spline };
  });
}

/** Keys a hold-out as it is on the frame shown, or takes the key there away; the last one's look is that on all frames. */
export function keyHoldOut(track: RegionTrack, place: number): void {
  const { frame } = usePlayhead.getState();
  const patch = changedHoldOut(track, place, ({ keys = [], ...one }) => {
    const spline = knotsOf(holdOutSpline({ ...one, keys }, frame));
    const left = keys.filter((key) => key.frame !== frame);
    if (left.length === keys.length) return { ...one, keys: withKey(keys, { frame, spline }) };
    return left.length > 0 ? { ...one, keys: left } : { ...one, spline };
  });
  void changeRegion(track, patch);
}

const changedHoldOut = (
  { region }: RegionTrack,
  place: number,
  change: (one: HoldOutView) => HoldOutView,
): RegionPatch => ({ holdOuts: region.holdOuts.map((one, i) => (i === place ? change(one) : one)) });
