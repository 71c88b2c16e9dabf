import {
  matrixAt,
  warpPicture,
  type Interpolation,
  type Kernels,
  type Placing,
  type YuvFormat,
} from '@lurn/core';

/** Where pictures are made: kernels, in whose memory they lie, and what the pictures are. */
export interface RenderStage {
  kernels: Kernels;
  format: YuvFormat;
}

/** Makes one picture of another; both are addresses of whole pictures in the kernels' memory. */
export type RenderStep = (frame: number, from: number, to: number) => void;

/** Puts each frame where its placement has it, by one resampling. */
export interface PlaceStep extends Placing {
  kind: 'place';
  interpolation: Interpolation;
}

/** A step as it is asked for; it can be cloned to another thread. */
export type StepOrder = PlaceStep;

const makers: {
  [K in StepOrder['kind']]: (order: Extract<StepOrder, { kind: K }>, stage: RenderStage) => RenderStep;
} = {
  place:
    ({ placements, rows, interpolation }, { kernels, format }) =>
    (frame, from, to) =>
      warpPicture(
        kernels,
        format,
        from,
        to,
        matrixAt(placements, frame),
        interpolation,
        rows && { rows, frame },
      ),
};

export const makeStep = (order: StepOrder, stage: RenderStage): RenderStep =>
  makers[order.kind](order, stage);
