import {
  bareBoxes,
  fillFrames,
  kernelHeap,
  makeKernelMemory,
  matrixAt,
  multiply,
  outputFormat,
  OutputPictures,
  pictureBytes,
  scaledRows,
  scaling,
  scratchBytes,
  spacedBytes,
  startKernels,
  type FillFrame,
  type Mat3,
  type OutputOptions,
  type Placing,
  type RowMotion,
  type YuvFormat,
} from '@lurn/core';
import type { Picture } from './frame-source';
import type { OutputLook } from './stage-messages';

interface Size {
  width: number;
  height: number;
}

/** Even, as the planes of chroma are half as large. */
const even = (length: number): number => Math.max(2, 2 * Math.round(length / 2));

/** Whether the rasteriser alone does not do: edges go on, or pixels are taken otherwise than between two. */
export const isMade = ({ edge, interpolation }: OutputLook): boolean =>
  edge === 'stretch' ||
  edge === 'mirror' ||
  edge === 'blur' ||
  edge === 'fill' ||
  interpolation === 'nearest' ||
  interpolation === 'lanczos';

/** Frames before and after that fill edges, and how many of them at most. */
export const fillReach = 24;
const mostFillers = 16;

/** Makes pictures of the output from the proxy's, by the same code as the export. */
export class OutputMaker {
  private pictures: OutputPictures | null = null;
  private format: YuvFormat | null = null;
  private memory: WebAssembly.Memory | null = null;
  private made = '';
  /** Where the pictures of other frames lie. */
  private fillersAt = 0;
  private rows: { of: RowMotion; scaled: RowMotion } | null = null;

  constructor(
    private readonly module: WebAssembly.Module,
    private readonly clip: Size,
  ) {}

  /** The frames that fill the edges of one, the nearest last. */
  fillers(frame: number, { placements, rows }: Placing, { size, edge, carried }: OutputLook): FillFrame[] {
    if (edge !== 'fill' || !carried) return [];
    const placement = matrixAt(placements, frame);
    const boxes = bareBoxes(placement, rows && { rows, frame }, this.clip, size);
    return fillFrames(carried, frame, placement, boxes, this.clip, fillReach).slice(-mostFillers);
  }

  make(
    picture: Picture,
    frame: number,
    placing: Placing,
    look: OutputLook,
    others: ReadonlyMap<number, Picture>,
  ): Picture {
    const { placements, rows } = placing;
    const { width, height } = picture;
    // As many pixels as the proxy has for it.
    const proxyFromClip = [width / this.clip.width, height / this.clip.height] as const;
    const size = {
      width: even(look.window.width * proxyFromClip[0]),
      height: even(look.window.height * proxyFromClip[1]),
    };
    this.prepare({ width, height }, size, look);
    const { pictures, memory, format } = this;
    if (!pictures || !memory || !format) throw new Error('The output cannot be made.');
    const to = kernelHeap + spacedBytes(picture.data.length);
    new Uint8Array(memory.buffer, kernelHeap, picture.data.length).set(picture.data);
    const shownBy = (outputFromFrame: Mat3): Mat3 =>
      multiply(
        scaling(size.width / look.size.width, size.height / look.size.height),
        multiply(outputFromFrame, scaling(1 / proxyFromClip[0], 1 / proxyFromClip[1])),
      );
    const filling = this.fillers(frame, placing, look).flatMap(({ frame: other, outputFromFrame }, i) => {
      const data = others.get(other)?.data;
      if (!data) return [];
      const at = this.fillersAt + i * spacedBytes(picture.data.length);
      new Uint8Array(memory.buffer, at, data.length).set(data);
      return [{ at, outputFromFrame: shownBy(outputFromFrame) }];
    });
    if (rows && this.rows?.of !== rows) this.rows = { of: rows, scaled: scaledRows(rows, ...proxyFromClip) };
    const byRows = rows && this.rows ? { rows: this.rows.scaled, frame } : null;
    pictures.make(kernelHeap, to, shownBy(matrixAt(placements, frame)), byRows, filling);
    // Textures are not filled from memory that is shared.
    return { ...size, data: new Uint8Array(memory.buffer, to, pictureBytes(format)).slice() };
  }

  private prepare(proxy: Size, size: Size, { interpolation, edge, unfilled, zoom }: OutputLook): void {
    const key = JSON.stringify([proxy, size, interpolation, edge, unfilled, zoom]);
    if (key === this.made) return;
    this.made = key;
    // Between two pixels of the proxy more is lost than between two of the clip: the cubic comes nearer to it.
    const taken = interpolation === 'linear' ? 'cubic' : interpolation;
    const source: YuvFormat = { ...proxy, subsampling: '420', siting: 'left', range: 'limited', bits: 8 };
    const options: OutputOptions = {
      source,
      size,
      interpolation: taken,
      edge,
      unfilled,
      scale: zoom,
    };
    this.format = outputFormat(options);
    const scratch = kernelHeap + spacedBytes(pictureBytes(source)) + spacedBytes(pictureBytes(this.format));
    this.fillersAt = scratch + spacedBytes(scratchBytes(options));
    const filling = edge === 'fill' ? mostFillers * spacedBytes(pictureBytes(source)) : 0;
    this.memory = makeKernelMemory(this.fillersAt + filling);
    this.pictures = new OutputPictures(startKernels(this.module, this.memory), options, scratch);
  }
}
