import { invert, type Mat3 } from '../../geometry/mat3.js';
import type { SceneChange } from './scene-motion.js';

/** Changes to a page: they are stored a page at a time. */
export const scenePageLength = 256;

const version = 1;
const header = 8;
/** What is known of a change, then its motion, then another great part's. */
const changeBytes = 8 + 2 * 72;
const pageBytes = header + scenePageLength * changeBytes;

const unknown = 0;
const isKnown = 1;
const isCut = 2;
const hasMotion = 4;
const hasOther = 8;

/**
 * How the whole picture moved from each frame of a clip to the next, as far as that has been worked out. Change k leads from
 * frame k − 1 to frame k.
 */
export class SceneTable {
  private readonly changes = new Map<number, SceneChange>();
  /** Pages with changes that have been added. */
  readonly touched = new Set<number>();

  get size(): number {
    return this.changes.size;
  }

  /** The change between a frame and the next or the last one, in that direction; undefined where it is not known. */
  between(from: number, to: number): SceneChange | undefined {
    const change = this.changes.get(Math.max(from, to));
    return change && (to > from ? change : reversed(change));
  }

  /** Takes a change in that leads to a frame from the one before. */
  set(frame: number, change: SceneChange): void {
    this.changes.set(frame, change);
    this.touched.add(Math.floor(frame / scenePageLength));
  }

  /** A page as bytes, little-endian: a version, then what is known of each change. */
  packPage(page: number): Uint8Array {
    const bytes = new Uint8Array(pageBytes);
    const view = new DataView(bytes.buffer);
    view.setUint16(0, version, true);
    for (let i = 0; i < scenePageLength; i++) {
      const change = this.changes.get(page * scenePageLength + i);
      if (!change) continue;
      const { motion, other, cut } = change;
      const at = header + i * changeBytes;
      bytes[at] = isKnown | (cut ? isCut : 0) | (motion ? hasMotion : 0) | (other ? hasOther : 0);
      [motion, other].forEach((m, which) =>
        m?.forEach((value, n) => view.setFloat64(at + 8 + 72 * which + 8 * n, value, true)),
      );
    }
    return bytes;
  }

  /** Takes in what `packPage` wrote. What another version wrote is passed over: it is worked out anew. */
  unpackPage(page: number, bytes: Uint8Array): void {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    if (bytes.byteLength !== pageBytes || view.getUint16(0, true) !== version) return;
    for (let i = 0; i < scenePageLength; i++) {
      const at = header + i * changeBytes;
      const flags = bytes[at];
      if (flags === unknown) continue;
      const matrix = (which: number): Mat3 =>
        Array.from({ length: 9 }, (_, n) =>
          view.getFloat64(at + 8 + 72 * which + 8 * n, true),
        ) as unknown as Mat3;
      const change: SceneChange = { motion: flags & hasMotion ? matrix(0) : null, cut: (flags & isCut) > 0 };
      if (flags & hasOther) change.other = matrix(1);
      this.changes.set(page * scenePageLength + i, change);
    }
  }
}

const reversed = ({ motion, other, cut }: SceneChange): SceneChange => {
  const back: SceneChange = { motion: motion && invert(motion), cut };
  if (other) back.other = invert(other);
  return back;
};
