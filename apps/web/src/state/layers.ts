import {
  colourKeyDefaults,
  ellipseSpline,
  flattenSpline,
  freshContent,
  kindOfContent,
  identity,
  invert,
  layerPoseAt,
  layerDefaults,
  matrixAt,
  partsAt,
  rectangleSpline,
  transformSpline,
  withKey,
  type Carrier,
  type ClipContent,
  type ClosedSpline,
  type Colour,
  type Layer,
  type LayerContent,
  type LayerKey,
  type LayerPose,
  type Mat3,
  type Point,
  type ShapeKey,
  type ShapePart,
  apply,
  fitInto,
  quadProportion,
  type Quad,
  type QuadFit,
} from '@lurn/core';
import type { ClipCard } from '@lurn/contract';
import { toast } from 'sonner';
import { create } from 'zustand';
import { api } from '../api/client';
import { attempt } from '../api/attempt';
import { useDocument, type LayerOfClip } from './document';
import { useDressing } from './dressing';
import { touch } from './drafts';
import { edit } from './editor';
import { usePlayhead } from './playhead';
import { matrixOf, selectedRegion, type RegionTrack } from './regions';
import { useSelection } from './selection';

/** The layer that has handles. */
export const useLayers = create<{
  selected: string | null;
  /** Where a colour is being taken from, clip pixels. */
  picking: Point | null;
  /** The selected one is shown by what it covers. */
  matte: boolean;
}>(() => ({ selected: null, picking: null, matte: false }));

const { getState: get, setState: set } = useDocument;

/** What is taken of tracks unless something else is said: as much as they tell. */
export function modelFor(trackIds: readonly string[]): Carrier['model'] {
  const isFlat = get().tracks.some(({ id, region }) => region && trackIds.includes(id));
  if (isFlat || trackIds.length > 3) return 'perspective';
  return trackIds.length > 1 ? 'similarity' : 'shift';
}

/** What a new layer rides on: the chosen tracks, else what is held of the scene, else the frame itself. */
export function likelyCarrier(): Carrier {
  const { scene, tracks, samples } = get();
  const { chosen } = useSelection.getState();
  const frame = usePlayhead.getState().frame;
  const trackIds = tracks.flatMap(({ id }) => (chosen.has(id) && samples.get(id)?.found(frame) ? [id] : []));
  const { carrier } = layerDefaults;
  if (trackIds.length > 0)
    return {
      ...carrier,
      kind: 'tracks',
      trackIds,
      model: modelFor(trackIds),
    };
  return scene?.used ? { ...carrier, kind: 'scene' } : carrier;
}

/** What a new layer is called. */
const nameOf = (kind: string): string => kind[0].toUpperCase() + kind.slice(1);

/** Where a new layer is drawn: about the chosen track's box, else in the middle. */
function likelyPlace(): { x: number; y: number; width: number; height: number } {
  const { clip, tracks, samples } = get();
  const { selected } = useSelection.getState();
  const track = tracks.find(({ id }) => id === selected);
  const at = track && samples.get(track.id)?.get(usePlayhead.getState().frame);
  if (track && at) {
    const { width, height } = track.template;
    return { x: at.x, y: at.y, width: 3 * width, height: 3 * height };
  }
  const { width, height } = clip ?? { width: 100, height: 100 };
  return { x: width / 2, y: height / 2, width: width / 4, height: height / 4 };
}

/** Draws something on the frame that is shown. */
export async function addLayer(kind: LayerContent['kind']): Promise<void> {
  const { x, y, width, height } = likelyPlace();
  const spline = rectangleSpline(x - width / 2, y - height / 2, x + width / 2, y + height / 2);
  const content: LayerContent = freshContent(kind);
  await put(content, {
    ...layerDefaults.shape,
    parts: [{ spline, cut: false }],
    featherOut: kindOfContent(content).feather ?? 0,
  });
}

/** A layer to paint on, as on the frame that is shown. */
export const addRepairLayer = (): Promise<void> => put(freshContent('repair'), layerDefaults.shape);

/** Writes something on the frame that is shown. */
export async function addText(font = ''): Promise<void> {
  const { x, y } = likelyPlace();
  const size = Math.round((get().clip?.height ?? 1080) / 18);
  await put({ ...freshContent('text'), font, x, y, size }, layerDefaults.shape);
}

/** Brings a picture in, and lays it in the middle of the frame that is shown, at its own shape. */
export const addPicture = (file: File): Promise<void> =>
  attempt(async () => {
    const { id, name, ...size } = await api.bringAsset(file);
    const content: LayerContent = { kind: 'picture', asset: id, quad: likelyQuad(size) };
    await put(content, layerDefaults.shape, name.replace(/\.[^.]*$/, ''));
  });

/** Shows a clip of the project in the middle of the frame that is shown, from its beginning; a still is of that frame. */
export const addClip = ({ id, width, height, name }: ClipCard, play: ClipContent['play']): Promise<void> => {
  const isOwn = id === get().clip?.id;
  const from = isOwn ? usePlayhead.getState().frame : 0;
  const content: ClipContent = {
    kind: 'clip',
    clip: isOwn ? '' : id,
    from,
    play,
    quad: likelyQuad({ width, height }),
  };
  return put(content, layerDefaults.shape, name.replace(/\.[^.]*$/, ''));
};

/** Corners of something of a proportion that is put into a region's quad on a frame; null where that is not known there. */
export function cornersIn(track: RegionTrack, frame: number, how: QuadFit, own: number): number[] | null {
  const { clip } = get();
  const matrix = matrixOf(track, frame);
  if (!matrix || !clip) return null;
  const quad = track.region.quad.map(({ x, y }) => apply(matrix, x, y)) as unknown as Quad;
  const proportion = quadProportion(quad, { x: clip.width / 2, y: clip.height / 2 });
  return fitInto(quad, how, own, proportion).flatMap(({ x, y }) => [x, y]);
}

/** Corners of something of a size where a new layer is drawn, at its own shape. */
function likelyQuad({ width, height }: { width: number; height: number }): number[] {
  const region = selectedRegion();
  const fitted = region && cornersIn(region, usePlayhead.getState().frame, 'fit', width / height);
  if (fitted) return fitted;
  const { x, y, ...room } = likelyPlace();
  const scale = Math.min(room.width / width, room.height / height);
  const [w, h] = [(scale * width) / 2, (scale * height) / 2];
  return [x - w, y - h, x + w, y - h, x + w, y + h, x - w, y + h];
}

/** Endings of files that fonts and pictures come in. */
export const fontEndings = ['.ttf', '.otf', '.woff', '.woff2'];
const pictureEndings = ['.png', '.jpg', '.jpeg', '.webp', '.tif', '.tiff'];

/** Takes a file that was dropped, where it is a picture or a font; false where it is neither. */
export function dressWithFile(file: File): boolean {
  const endsAs = (endings: string[]): boolean =>
    endings.some((ending) => file.name.toLowerCase().endsWith(ending));
  if (endsAs(pictureEndings)) void addPicture(file);
  else if (endsAs(fontEndings)) void takeFont(file);
  else return false;
  return true;
}

/** Gives the selected text a font; without one a text is added. */
const takeFont = (file: File): Promise<void> =>
  attempt(async () => {
    const { id: font } = await api.bringAsset(file);
    const layer = get().layers.find(({ id }) => id === useLayers.getState().selected);
    if (layer?.content.kind === 'text') changeLayer(layer.id, { content: { ...layer.content, font } });
    else await addText(font);
  });

async function put(content: LayerContent, shape: Layer['shape'], name = nameOf(content.kind)): Promise<void> {
  const { clip, layers } = get();
  if (!clip) return;
  const taken = layers.filter((one) => one.name === name || one.name.startsWith(`${name} `)).length;
  const layer: Layer = {
    ...layerDefaults,
    id: '',
    ...{ name: taken > 0 ? `${name} ${taken + 1}` : name, content, shape, carrier: likelyCarrier() },
    ...{ first: 0, last: clip.frames - 1, frame: usePlayhead.getState().frame },
  };
  const change = await edit((_, edits) => edits.addLayer(clip.id, layer));
  const added = change?.records.find(({ kind }) => kind === 'layer');
  if (added) useLayers.setState({ selected: added.id });
}

/** Adds an outline to what is seen of a layer, or cuts one out of it, in the middle of what there is. */
export function addPart(layer: LayerOfClip, form: 'rectangle' | 'ellipse', cut: boolean): void {
  const { shape, content } = layer;
  const points =
    partsAt(shape, usePlayhead.getState().frame).length > 0
      ? partsAt(shape, usePlayhead.getState().frame).flatMap(({ spline }) => flattenSpline(spline))
      : (kindOfContent(content).quad?.(content, null) ?? []);
  if (points.length === 0) return;
  const [xs, ys] = [points.map((p) => p.x), points.map((p) => p.y)];
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  // What is cut leaves something about it; what is added reaches beyond what there is.
  const [dx, dy] = [(right - left) / 4, (bottom - top) / 4];
  const away = cut || shape.parts.length === 0 ? 0 : 3 * dx;
  const make = form === 'ellipse' ? ellipseSpline : rectangleSpline;
  const spline = make(left + dx + away, top + dy, right - dx + away, bottom - dy);
  setParts(layer, [...partsAt(shape, usePlayhead.getState().frame), { spline, cut }]);
}

/** Adds an outline that was drawn on the frame shown to what is seen of the selected layer, or cuts it out. */
export function addOutline(spline: ClosedSpline, cut: boolean): void {
  const { selected } = useLayers.getState();
  const layer = get().layers.find(({ id }) => id === selected);
  if (!layer) return;
  const one = { spline: transformSpline(spline, invert(outlinesAt(layer))), cut };
  setParts(layer, [...partsAt(layer.shape, usePlayhead.getState().frame), one]);
}

/** How a layer's outlines lie on the frame shown, from that which it was drawn on. */
export function outlinesAt({ id }: LayerOfClip): Mat3 {
  const carried = useDressing.getState().carried.find(({ layer }) => layer.id === id);
  const carriage = carried?.shapeCarriage ?? carried?.carriage;
  return carriage ? matrixAt(carriage.frameFromLayer, Math.max(0, usePlayhead.getState().shown)) : identity;
}

/** Changes a layer's outlines: on the frame shown where they are keyed, else on all. */
export function setParts({ id, shape }: LayerOfClip, parts: readonly ShapePart[]): void {
  if (shape.keys.length === 0) return changeLayer(id, { shape: { ...shape, parts } });
  const frame = usePlayhead.getState().frame;
  const here = shape.keys.find((key) => key.frame === frame);
  const key: ShapeKey = { easing: 'ease', ...here, frame, parts };
  changeLayer(id, { shape: { ...shape, keys: withKey(shape.keys, key) } });
}

/** Keys a layer's outlines as they are on the frame shown. */
export function keyOutlines(layer: LayerOfClip): void {
  const { shape } = layer;
  const frame = usePlayhead.getState().frame;
  const parts = partsAt(shape, frame);
  if (shape.keys.length > 0) return setParts(layer, parts);
  changeLayer(layer.id, { shape: { ...shape, keys: [{ frame, easing: 'ease', parts }] } });
}

/** Takes the key of a layer's outlines here away; the last one's are those on all frames. */
export function unkeyOutlines({ id, shape }: LayerOfClip): void {
  const frame = usePlayhead.getState().frame;
  const keys = shape.keys.filter((key) => key.frame !== frame);
  const parts = keys.length === 0 ? partsAt(shape, frame) : shape.parts;
  changeLayer(id, { shape: { ...shape, keys, parts } });
}

/** Has a layer sit in what is about it on the frame shown. */
export const matchLayer = ({ id }: LayerOfClip): Promise<void> =>
  attempt(async () => {
    const { clip } = get();
    if (clip) changeLayer(id, { match: await api.around(clip.id, usePlayhead.getState().frame, id) });
  });

/** Takes a colour for the selected layer's key. */
export function takeColour(colour: Colour): void {
  const layer = get().layers.find(({ id }) => id === useLayers.getState().selected);
  if (layer) changeLayer(layer.id, { key: { ...colourKeyDefaults, ...layer.key, colour } });
}

/** Puts a layer somewhere on the frame that is shown: a key. */
export function keyLayer(layer: LayerOfClip, part: Partial<LayerPose>): void {
  const frame = usePlayhead.getState().frame;
  const here = layer.keys.find((key) => key.frame === frame);
  const key: LayerKey = { easing: 'ease', ...layerPoseAt(layer.keys, frame), ...here, ...part, frame };
  changeLayer(layer.id, { keys: withKey(layer.keys, key) });
}

export const unkeyLayer = (layer: LayerOfClip): void =>
  changeLayer(layer.id, { keys: layer.keys.filter(({ frame }) => frame !== usePlayhead.getState().frame) });

/** Changes a layer: seen at once, stored when the hand rests, or after so many milliseconds. */
export function changeLayer(id: string, part: Partial<LayerOfClip>, rest?: number): void {
  const { layers } = get();
  const before = layers.find((one) => one.id === id);
  if (!before) return;
  const next = { ...before, ...part };
  set({ layers: layers.map((one) => (one === before ? next : one)) });
  void touch({
    ...{ kind: 'layer', id, part, rest },
    send: (_, edits) => edits.changeLayer(id, next),
  });
}

export const removeLayer = (id: string): Promise<unknown> => edit((_, edits) => edits.removeLayer(id));
export const moveLayer = (id: string, to: number): Promise<unknown> =>
  edit((_, edits) => edits.moveLayer(id, to));
export const copyLayerTo = (id: string, clipId: string): Promise<void> =>
  attempt(async () => {
    await api.copyLayerTo(id, clipId);
    toast.success('It lies there on the frame itself: have it carried by something.');
  });
export const copyLayer = (id: string): Promise<unknown> =>
  edit((clip, edits) => edits.copyLayer(id, clip.id));
