import { matrixAt, warpPicture, type Interpolation, type Kernels, type YuvFormat } from '@lurn/core';

/** Where pictures are made: kernels, in whose memory they lie, and what the pictures are. */
export interface RenderStage {
  kernels: Kernels;
  format: YuvFormat;
}

/** Makes one picture of another; both are addresses of whole pictures in the kernels' memory. */
export type RenderStep = (frame: number, from: number, to: number) => void;

/** Puts each frame where its placement has it, by one resampling. */
export interface PlaceStep {
  kind: 'place';
  /** Nine numbers a frame of the clip: frame k → output pixel. */
  placements: Float64Array;
  interpolation: Interpolation;
}

/** A step as it is asked for; it can be cloned to another thread. */
export type StepOrder = PlaceStep;

const makers: {
  [K in StepOrder['kind']]: (order: Extract<StepOrder, { kind: K }>, stage: RenderStage) => RenderStep;
} = {
  place:
    ({ placements, interpolation }, { kernels, format }) =>
    (frame, from, to) =>
      warpPicture(kernels, format, from, to, matrixAt(placements, frame), interpolation),
};

export const makeStep = (order: StepOrder, stage: RenderStage): RenderStep =>
  makers[order.kind](order, stage);
