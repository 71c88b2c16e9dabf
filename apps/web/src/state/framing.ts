import { framingMatrix, outputOf, outputPlace, viewOf, type Point } from '@lurn/core';
import { useDocument } from './document';
import { usePlayhead } from './playhead';
import { changeSteady } from './steadying';

/** How far the steadied picture is slid aside, output pixels. */
export function slidBy(): Point {
  const framing = useDocument.getState().steady?.framing;
  return { x: framing?.offsetX ?? 0, y: framing?.offsetY ?? 0 };
}

export function slideTo({ x, y }: Point): void {
  const framing = useDocument.getState().steady?.framing;
  if (framing) changeSteady({ framing: { ...framing, offsetX: x, offsetY: y } }, 'Framing');
}

/** Output pixels to a pixel of the steadied picture, each way, at the zoom of the framing. */
export function outputScale(): Point {
  const { clip, steady } = useDocument.getState();
  if (!clip || !steady) return { x: 1, y: 1 };
  const matrix = framingMatrix(steady.framing, viewOf(clip, steady.output));
  return { x: matrix[0], y: matrix[4] };
}

/** Frames all of the clip as the frame shown is in the source: its middle comes to the middle of the output. */
export function keepFraming(): void {
  const { clip, steady, result } = useDocument.getState();
  if (!clip || !steady || !result) return;
  const middle = { x: clip.width / 2, y: clip.height / 2 };
  const { x, y } = outputPlace(result, usePlayhead.getState().frame, middle);
  const { width, height } = outputOf(viewOf(clip, steady.output));
  const slid = slidBy();
  slideTo({ x: slid.x + width / 2 - x, y: slid.y + height / 2 - y });
}
