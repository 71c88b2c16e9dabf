import type { HandKeyView, SteadySpanView } from '@lurn/contract';
import {
  apply,
  handPlaceAt,
  matrixAt,
  outputOf,
  outputPlace,
  viewOf,
  withKey,
  type HandPlace,
  type Point,
} from '@lurn/core';
import { useDocument } from './document';
import { outputScale } from './framing';
import { usePlayhead } from './playhead';
import { shotAt } from './scene';
import { useSelection } from './selection';
import { changeSteady } from './steadying';
import { useView, type Span } from './view';

const steady = () => useDocument.getState().steady;

/** Where the steadied picture is put on the frame shown. */
export const handHere = (): HandPlace => handPlaceAt(steady()?.keys ?? [], usePlayhead.getState().frame);

/** The key on a frame, if there is one. */
export const handKeyOn = (frame: number): HandKeyView | undefined =>
  steady()?.keys.find((key) => key.frame === frame);

/** Puts the steadied picture elsewhere on a frame, the one shown where none is named; a key keeps it. */
export function putByHand(
  part: Partial<Omit<HandKeyView, 'frame'>>,
  frame = usePlayhead.getState().frame,
): void {
  const own = steady();
  if (!own) return;
  const easing = handKeyOn(frame)?.easing ?? own.keys.findLast((key) => key.frame < frame)?.easing ?? 'ease';
  const key = { easing, ...handPlaceAt(own.keys, frame), ...part, frame };
  changeSteady({ keys: withKey(own.keys, key) }, 'By hand');
}

/** Removes the key on the frame shown, or all of them. */
export function removeHandKeys(which: 'here' | 'all'): void {
  const own = steady();
  if (!own) return;
  const { frame } = usePlayhead.getState();
  changeSteady({ keys: which === 'all' ? [] : own.keys.filter((key) => key.frame !== frame) }, 'By hand');
}

/** Where in the output something can be put: as shares of its width and height. */
export const places = {
  middle: { x: 1 / 2, y: 1 / 2, name: 'In the middle' },
  left: { x: 1 / 3, y: 1 / 2, name: 'At the left third' },
  right: { x: 2 / 3, y: 1 / 2, name: 'At the right third' },
} as const;

/** Puts what is held, on the frame shown, somewhere in the output. */
export function putHeldAt(where: keyof typeof places): void {
  const { clip, result } = useDocument.getState();
  const at = heldPoint();
  const own = steady();
  if (!clip || !result || !own || !at) return;
  const { frame } = usePlayhead.getState();
  const here = outputPlace(result, frame, at);
  const { width, height } = outputOf(viewOf(clip, own.output));
  const scale = outputScale();
  const hand = handHere();
  putByHand({
    x: hand.x + (places[where].x * width - here.x) / scale.x,
    y: hand.y + (places[where].y * height - here.y) / scale.y,
  });
}

/** The point that is held, where it is in the source on the frame shown: the selected track's, else the scene group's. */
export function heldPoint(): Point | null {
  const { clip, samples, scene, tracks, result } = useDocument.getState();
  const { frame } = usePlayhead.getState();
  const { selected } = useSelection.getState();
  const track = tracks.find(({ id, used }) => id === selected && used) ?? tracks.find(({ used }) => used);
  const own = track && samples.get(track.id);
  if (own?.found(frame)) return { x: own.x(frame), y: own.y(frame) };
  const shot = scene?.used ? scene.shots.at(shotAt(scene, frame)) : undefined;
  if (!clip || !result || !shot) return null;
  const { pixelAspect, matrices, shots = [] } = result.motion;
  // Each shot leaves a frame of its own alone.
  const { pivot } = shots.find(({ first, last }) => frame >= first && frame <= last) ?? result.motion;
  const at = apply(matrixAt(matrices, frame), pivot.x, pivot.y);
  return { x: at.x / pixelAspect, y: at.y };
}

/** Frames over which a stretch is gone over into, to begin with. */
const usualEase = 12;

/** Does something else to the chosen stretch of frames than to the rest. */
export function addStretch(kind: SteadySpanView['kind'], { first, last }: Span): void {
  const own = steady();
  if (!own) return;
  const spans = [...own.spans, { kind, first, last, ease: usualEase }].sort((a, b) => a.first - b.first);
  changeSteady({ spans }, 'Stretches');
  useView.setState({ span: null });
}

export function changeStretch(index: number, part: Partial<SteadySpanView> | null): void {
  const own = steady();
  if (!own) return;
  const spans = own.spans.flatMap((span, i) => (i !== index ? [span] : part ? [{ ...span, ...part }] : []));
  changeSteady({ spans }, 'Stretches');
}

export const stretchNames: Record<SteadySpanView['kind'], string> = {
  hold: 'Held',
  protect: 'As it is',
  even: 'One pace',
};
