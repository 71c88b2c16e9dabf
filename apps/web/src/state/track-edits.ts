import type { TrackPatch, TrackView } from '@lurn/contract';
import { toast } from 'sonner';
import { api } from '../api/client';
import { allOf, choose, type PointedAt, useSelection } from './selection';
import { useDocument } from './document';
import { edit, go, place, setKey } from './editor';
import { newPointSettings, usePreferences } from './preferences';
import { useView, type Area, type Span } from './view';
import { usePlayhead } from './playhead';
import type { TrackSamples } from './track-samples';
import { nextStop, troubles } from './troubles';

// What is done to tracks is done to all that are chosen, in one step of undo.

const { getState: get } = useDocument;
const { getState: selection, setState: select } = useSelection;

const nothingChosen = 'No track is chosen.';
const plural = (count: number): string => (count === 1 ? 'One track' : `${count} tracks`);

const chosenTracks = (): TrackView[] => get().tracks.filter((t) => selection().chosen.has(t.id));

/** Chooses a track: alone, besides others, or through from the one selected. */
export function chooseTrack(id: string, kind: PointedAt = 'alone'): void {
  const ids = get().tracks.map((t) => t.id);
  select((before) => choose(ids, before, id, kind));
}

export function chooseAll(): void {
  const ids = get().tracks.map((t) => t.id);
  select(({ selected }) => allOf(ids, selected));
}

/** Chooses the track after the selected one, alone or besides. */
export function chooseNext(kind: 'alone' | 'besides'): void {
  const { tracks } = get();
  const { selected } = selection();
  const next = tracks[(tracks.findIndex((t) => t.id === selected) + 1) % tracks.length];
  if (!next) return;
  if (kind === 'alone') chooseTrack(next.id);
  else select(({ chosen }) => ({ selected: next.id, chosen: new Set([...chosen, next.id]) }));
}

export async function placeTrack(x: number, y: number, frame: number): Promise<void> {
  const settings = newPointSettings(usePreferences.getState());
  const change = await place((clip, edits) => edits.placeTrack(clip.id, { x, y, frame, ...settings }));
  if (change) useView.setState({ tool: 'move' });
}

/** Places the best points there are on the frame shown. Returns how many there were. */
export async function suggest(count: number): Promise<number> {
  const { clip } = get();
  const { areas } = useView.getState();
  const { frame } = usePlayhead.getState();
  if (!clip) return 0;
  const of = (kind: Area['kind']) =>
    areas.filter((a) => a.kind === kind).map(({ spline }) => ({ knots: [...spline.knots] }));
  let found = 0;
  await place(async (_, edits) => {
    const points = await api.suggest(clip.id, { frame, count, within: of('within'), without: of('without') });
    found = points.length;
    if (found === 0) return undefined;
    const settings = newPointSettings(usePreferences.getState());
    return edits.placeTracks(clip.id, { frame, points: points.map(({ x, y }) => ({ x, y })), ...settings });
  });
  if (found === 0) toast.info('Nothing there is worth following.');
  useView.setState({ areas: [], editedArea: null, draft: null, tool: 'move' });
  return found;
}

export const changeTracks = (trackIds: string[], patch: TrackPatch): Promise<unknown> =>
  edit((_, edits) => edits.changeTracks({ trackIds, patch }));

export const deleteTracks = (trackIds: string[]): Promise<unknown> =>
  edit((_, edits) => edits.deleteTracks({ trackIds }));

/** Finds the best points on the frame shown and follows them both ways: the likely thing on a fresh clip. */
export async function findAndFollow(): Promise<void> {
  if ((await suggest(fewPoints)) > 0) await follow('both');
}
const fewPoints = 6;

/** Tracks once more; the copies are chosen. */
export async function duplicateTracks(): Promise<void> {
  const trackIds = chosenTracks().map(({ id }) => id);
  await place((_, edits) => edits.duplicateTracks({ trackIds }));
}

/** Makes the other chosen tracks a part of the selected one. */
export async function joinTracks(): Promise<void> {
  const { selected } = selection();
  if (!selected) return;
  const trackIds = chosenTracks().map(({ id }) => id);
  const change = await edit((_, edits) => edits.joinTracks({ trackIds, into: selected }));
  if (change) chooseTrack(selected);
}

/** Gives the selected track's motion to the others that are chosen, as a start. */
export async function carryMotion(): Promise<void> {
  const { selected } = selection();
  if (!selected) return;
  const trackIds = chosenTracks().flatMap(({ id }) => (id === selected ? [] : [id]));
  await edit((_, edits) => edits.carryMotion({ trackIds, from: selected }));
}

/** Moves a key of a track along the lane. */
export const moveKey = (id: string, frame: number, to: number): Promise<unknown> =>
  edit((_, edits) => edits.moveKey(id, frame, to));

/** Smooths the chosen tracks' own paths in a span. */
export async function smoothSpan({ first, last }: Span, sigma: number): Promise<void> {
  const trackIds = chosenTracks().map(({ id }) => id);
  if (trackIds.length === 0) return void toast.info(nothingChosen);
  await edit((_, edits) => edits.smooth({ trackIds, smooth: { first, last, sigma } }));
}

/** Follows the frames of a span anew, from what lies on either side of it. */
export async function followSpan(span: Span, trackIds = chosenTracks().map(({ id }) => id)): Promise<void> {
  if (trackIds.length === 0) return void toast.info(nothingChosen);
  await edit(async (clip) => {
    await api.follow(clip.id, { trackIds, direction: 'both', from: span.first, span });
    return undefined;
  });
}

/** Keeps the selected track's box where it is on this frame as a key, and goes on: one step of mending by hand. */
export function keyAndGo(step: 1 | -1): void {
  const { frame } = usePlayhead.getState();
  const { selected } = selection();
  const own = selected ? get().samples.get(selected) : undefined;
  const here = own?.get(frame);
  if (!selected || !own || !here) return void toast.info(`No place on frame ${frame} to make a key of.`);
  keyHere();
  const next = frame + step;
  // Where nothing is known of the next frame the box goes along, to be put right there.
  if (own.frames > next && next >= 0 && !own.found(next)) setKey(selected, next, here.x, here.y);
  go(next);
}

/** Starts or ends moving the pictures so that the selected track's point stands still. */
export function toggleRide(): void {
  const { selected } = selection();
  const { shown } = usePlayhead.getState();
  useView.setState(({ ride }) => ({
    ride: ride || !selected ? null : { trackId: selected, from: Math.max(0, shown) },
  }));
}

/** Removes the samples of a span, keys too. */
export async function clearSpan(first: number, last: number): Promise<void> {
  const trackIds = [...selection().chosen];
  if (trackIds.length === 0) return void toast.info(nothingChosen);
  if (first <= last) await edit((_, edits) => edits.clearSpan({ trackIds, span: { first, last } }));
}

/** Fills the frames between keys by a curve. */
export async function fillBetweenKeys(how: 'linear' | 'smooth'): Promise<void> {
  const { chosen } = selection();
  const { steady } = get();
  if (chosen.size === 0 || !steady) return;
  const fill = { how, ...(useView.getState().span ?? steady.range) };
  await edit((_, edits) => edits.interpolate({ trackIds: [...chosen], fill }));
}

/** From this frame on the selected track follows what is at (x, y) in place of its point; the path stays. */
export async function followAside(x: number, y: number, frame: number): Promise<void> {
  const { selected } = selection();
  const here = selected ? get().samples.get(selected)?.get(frame) : null;
  useView.setState({ tool: 'move' });
  if (!selected || !here) return void toast.info('The track has no place on this frame to go on from.');
  const aside = { x: x - here.x, y: y - here.y };
  await edit((_, edits) => edits.setKey(selected, frame, { x: here.x, y: here.y, aside }));
}

/** Goes to the next, or the last, of some frames of the chosen tracks, and selects the one that has it. */
function goToStop(
  step: 1 | -1,
  framesOf: (samples: TrackSamples | undefined) => number[],
  none: string,
): void {
  const { selected } = selection();
  const { samples } = get();
  if (selected === null) return void toast.info(nothingChosen);
  const among = chosenTracks().map(({ id }) => ({ id, frames: framesOf(samples.get(id)) }));
  const next = nextStop(among, { id: selected, frame: usePlayhead.getState().frame }, step);
  if (!next) return void toast.info(`${plural(among.length)} chosen, ${none}.`);
  select({ selected: next.id });
  go(next.frame);
}

export const goToTrouble = (step: 1 | -1): void => goToStop(step, troubles, 'and in no trouble');

export const goToKey = (step: 1 | -1): void =>
  goToStop(step, (samples) => samples?.keys() ?? [], 'without a key');

/** Makes a key of the selected track's place on the frame shown, moved by so many pixels. */
export function keyHere(dx = 0, dy = 0): void {
  const { selected } = selection();
  const { samples, tracks } = get();
  const { frame } = usePlayhead.getState();
  const here = selected ? samples.get(selected)?.get(frame) : null;
  if (!selected || !here) return void toast.info(`No place on frame ${frame} to make a key of.`);
  if (!tracks.find((t) => t.id === selected)?.locked) setKey(selected, frame, here.x + dx, here.y + dy);
}

export type FollowDirection = 'forwards' | 'backwards' | 'both' | 'next' | 'previous';

/** Follows the chosen tracks from the frame shown, those that can be. */
export async function follow(direction: FollowDirection): Promise<void> {
  const { frame } = usePlayhead.getState();
  const chosen = chosenTracks();
  if (chosen.length === 0) return void toast.info('Place a point first, then follow it.');
  const able = chosen.filter(({ id, locked }) => !locked && get().samples.get(id)?.found(frame));
  // Where none can be followed the server says why.
  const trackIds = (able.length > 0 ? able : chosen).map(({ id }) => id);
  const left = chosen.length - trackIds.length;
  let started = false;
  await edit(async (clip) => {
    await api.follow(clip.id, { trackIds, direction, from: frame });
    started = true;
    return undefined;
  });
  if (!started) return;
  if (left > 0)
    toast.info(`${plural(left)} left out: locked, or without a place on frame ${frame} to start from.`);
  if (direction === 'next') go(frame + 1);
  if (direction === 'previous') go(frame - 1);
}
