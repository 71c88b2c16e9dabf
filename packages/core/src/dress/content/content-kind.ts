import type { Mat3, Point } from '../../geometry/mat3.js';
import type { Quad } from '../../geometry/quad.js';
import type { PixelBox } from '../../render/warp-picture.js';
import type { OperationContent } from '../operation.js';

/** Where a layer's content is put on a frame. */
export interface Placed {
  /** From the frame that it was drawn on to this one, keys and all. */
  matrix: Mat3;
  /** From the unit square to this frame, where the content has corners of its own. */
  square: Mat3 | null;
  /** How much larger than drawn it is about its middle. */
  grown: number;
  /** A factor on its strength, as keyed. */
  strength: number;
  /** The box of what it has of the clip itself, on the frame that it was drawn on. */
  box: PixelBox | null;
  /** The frame of another clip that it shows. */
  filmFrame: number;
  /** What its patch goes by among pictures; empty where it has none here. */
  patch: string;
}

/** Everything that differs by kind of what a layer shows. */
export interface ContentKind<C extends { kind: string }> {
  /** As it begins. */
  fresh: C;
  /** Whether it is nowhere without an outline. */
  needsOutline: boolean;
  /** Its corners on the frame that it was drawn on; what it has of the clip lies in `box`. Only outlines say where left out. */
  quad?: (content: C, box: PixelBox | null) => Quad | null;
  /** About what it is turned and sized, by the points that say; the middle of corners or outlines where left out. */
  middle?: (content: C) => readonly Point[];
  /** Whether feather and choke are left out where it has no outline. */
  isUnshaped?: boolean;
  /** What is done to a frame's picture; null where nothing is. */
  operate: (content: C, placed: Placed) => OperationContent | null;
  /** With all that it says of places carried along, which turns and sizes it by so much. */
  moved?: (content: C, by: Mat3, turned: { rotation: number; scale: number }) => C;
  /** With its corners elsewhere, where it has some. */
  withQuad?: (content: C, quad: Quad) => C;
  /** What it is held by on screen: its corners where left out, or else its outlines. */
  grip?: (content: C) => Quad;
  /** Pixels over which its edge fades where it is drawn anew. */
  feather?: number;
  /** Ids of the pictures or fonts that it is made of. */
  assets?: (content: C) => readonly string[];
}
