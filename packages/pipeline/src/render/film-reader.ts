import type { LayerPicture } from '@lurn/core';
import { readFrames, type Clip, type ClipIndex, type ReadFrame } from '@lurn/media';

/** Pixels of a film within a picture: more than is seen of one costs time at every frame. */
const widest = 1280;

/** How large a clip is read to be shown within another. */
export function filmSize({ width, height }: Clip): { width: number; height: number } {
  const share = Math.min(1, widest / width);
  return { width: Math.round(width * share), height: Math.round(height * share) };
}

/** Reads the frames of a clip as pictures with alpha, one after another where they are asked for so. */
export class FilmReader {
  private frames: AsyncGenerator<ReadFrame> | null = null;
  private next = 0;
  private shown = -1;
  private readonly size: { width: number; height: number };
  private picture: LayerPicture | null = null;

  constructor(
    private readonly clip: Clip,
    private readonly index: ClipIndex,
    private readonly signal?: AbortSignal,
  ) {
    this.size = filmSize(clip);
  }

  async at(frame: number): Promise<LayerPicture> {
    if (this.picture && this.shown === frame) return this.picture;
    // A film that is slower or faster than what it is shown on leaves frames out; further on it is begun anew.
    if (!this.frames || frame < this.next || frame > this.next + 12) await this.begin(frame);
    for (;;) {
      const read = await this.frames?.next();
      if (!read || read.done) throw new Error(`Frame ${frame} of "${this.clip.name}" cannot be read.`);
      this.next = read.value.frame + 1;
      if (read.value.frame < frame) continue;
      this.shown = frame;
      return (this.picture = { ...this.size, rgba: read.value.data });
    }
  }

  async close(): Promise<void> {
    await this.frames?.return(undefined);
    this.frames = null;
  }

  private async begin(first: number): Promise<void> {
    await this.close();
    const { index, signal, size } = this;
    // Each picture is an array of its own: by it copies of lesser size are known.
    const slot = (): Uint8Array => new Uint8Array(4 * size.width * size.height);
    this.frames = readFrames(this.clip, { first, index, signal, size, planes: 'rgba', slot });
    this.next = first;
  }
}
