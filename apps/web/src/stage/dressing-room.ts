import {
  dressPicture,
  kernelHeap,
  layingBytes,
  LayingRoom,
  makeKernelMemory,
  pictureBytes,
  spacedBytes,
  startKernels,
  type DressOperation,
  type LayerPicture,
  type YuvFormat,
} from '@lurn/core';

/** Kernels' memory that frames are dressed in, as large as the pictures that layers show ask for. */
export class DressingRoom {
  private laying: { room: LayingRoom; levels: Uint8Array; bytes: number } | null = null;

  constructor(private readonly module: WebAssembly.Module) {}

  /** Dresses a picture; what comes of it is new. */
  dress(
    data: Uint8Array,
    format: YuvFormat,
    operations: readonly DressOperation[],
    pictures: ReadonlyMap<string, LayerPicture>,
    scale: { x: number; y: number },
    matte?: Float32Array,
  ): Uint8Array<ArrayBuffer> {
    const { room, levels } = this.prepare(format, [...pictures.values()]);
    levels.set(data);
    dressPicture(levels, format, operations, pictures, scale, matte, room);
    // Textures are not filled from memory that is shared.
    return levels.slice();
  }

  private prepare(format: YuvFormat, pictures: readonly LayerPicture[]) {
    const bytes = pictureBytes(format);
    const wanted = layingBytes(format, pictures);
    if (!this.laying || this.laying.levels.length !== bytes || this.laying.bytes < wanted) {
      const at = kernelHeap + spacedBytes(bytes);
      const memory = makeKernelMemory(at + wanted);
      const room = new LayingRoom(startKernels(this.module, memory), format, at, wanted);
      this.laying = { room, levels: new Uint8Array(memory.buffer, kernelHeap, bytes), bytes: wanted };
    }
    return this.laying;
  }
}
