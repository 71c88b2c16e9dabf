import {
  matrixAt,
  OutputPictures,
  outputFormat,
  outputOf,
  resamplingNames,
  viewOf,
  windowOf,
  scratchBytes,
  type EdgeKind,
  type Interpolation,
  type Kernels,
  type OutputOptions,
  type PictureSize,
  type Placing,
  type SteadySettings,
  type YuvFormat,
} from '@lurn/core';

/** Makes one picture of another; both are addresses of whole pictures in the kernels' memory. */
export type RenderStep = (frame: number, from: number, to: number) => void;

/** Puts each frame where its placement has it, by one resampling, into an output of its own size. */
export interface PlaceStep extends Placing {
  kind: 'place';
  interpolation: Interpolation;
  /** What bare edges show. */
  edge: EdgeKind;
  size: PictureSize;
  /** Output pixels to a source pixel where there are fewest. */
  scale: number;
}

/** The step that does what is chosen about steadying a clip, once that is solved. */
export function placeStep(
  { placements, rows, zooms }: Placing & { zooms: Float64Array | null },
  clip: PictureSize & { pixelAspect: string },
  {
    framing,
    output,
    edge = 'black',
    resampling = 'bicubic',
  }: Pick<SteadySettings, 'framing' | 'output' | 'edge' | 'resampling'>,
): PlaceStep {
  const view = viewOf(clip, output);
  const [size, window] = [outputOf(view), windowOf(view)];
  const zoom = zooms ? Math.min(...zooms) : framing.zoom;
  const scale = zoom * Math.min(size.width / window.width, size.height / window.height);
  return { kind: 'place', placements, rows, interpolation: resamplingNames[resampling], edge, size, scale };
}

/** A step as it is asked for; it can be cloned to another thread. */
export type StepOrder = PlaceStep;

/** A step on pictures of a format: what comes of it, the bytes that it needs aside, and how it is made. */
export interface PlannedStep {
  format: YuvFormat;
  scratch: number;
  start: (kernels: Kernels, scratch: number) => RenderStep;
}

const planners: {
  [K in StepOrder['kind']]: (order: Extract<StepOrder, { kind: K }>, source: YuvFormat) => PlannedStep;
} = {
  place: ({ placements, rows, interpolation, edge, size, scale }, source) => {
    const options: OutputOptions = { source, size, interpolation, edge, scale };
    return {
      format: outputFormat(options),
      scratch: scratchBytes(options),
      start: (kernels, scratch) => {
        const pictures = new OutputPictures(kernels, options, scratch);
        return (frame, from, to) =>
          pictures.make(from, to, matrixAt(placements, frame), rows && { rows, frame });
      },
    };
  },
};

export const planStep = (order: StepOrder, source: YuvFormat): PlannedStep =>
  planners[order.kind](order, source);
