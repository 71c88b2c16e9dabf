import type { Point } from '../geometry/mat3.js';
import type { Colour } from './colour.js';
import type { PixelBox } from '../render/warp-picture.js';

/** What a stroke of the brush does: lays a colour, copies, copies with light and colour fitted at the border, takes away. */
export const strokeKinds = ['colour', 'clone', 'heal', 'erase'] as const;

/** A stroke of the brush, pixels of the clip on the frame that its layer was drawn on. */
export interface Stroke {
  how: (typeof strokeKinds)[number];
  /** Where it goes: x, y and pressure (0 to 1) of each point, one after another. */
  points: readonly number[];
  /** Across, at full pressure. */
  width: number;
  /** The share of its radius over which it fades. */
  soft: number;
  /** 0 to 1. */
  strength: number;
  /** Whether it adds up where it passes over itself. */
  buildUp: boolean;
  /** What it lays, where it lays a colour. */
  colour: Colour;
  /** Of a copy: the frame that it is taken from, and how far aside there, as that frame is carried to the layer's. */
  from: number;
  aside: readonly [x: number, y: number];
  /** The frames on which it is seen, both included. */
  first: number;
  last: number;
}

/** What stands in for what a stroke leaves out, on a clip of so many frames. */
export const strokeDefaults = (frames: number): Omit<Stroke, 'points'> => ({
  how: 'heal',
  width: 40,
  soft: 0.5,
  strength: 1,
  buildUp: false,
  colour: [0, 0, 0],
  from: 0,
  aside: [0, 0],
  first: 0,
  last: frames - 1,
});

/** Numbers of a stroke to a point. */
export const strokeStep = 3;

/** The points of a stroke. */
export const strokePoints = ({ points }: Pick<Stroke, 'points'>): (Point & { pressure: number })[] =>
  Array.from({ length: points.length / strokeStep }, (_, i) => ({
    x: points[strokeStep * i],
    y: points[strokeStep * i + 1],
    pressure: points[strokeStep * i + 2],
  }));

/** A stroke moved to elsewhere; what it copies comes from as far aside as before. */
export const movedStroke = (stroke: Stroke, dx: number, dy: number): Stroke => ({
  ...stroke,
  points: stroke.points.map((v, i) => v + [dx, dy, 0][i % strokeStep]),
});

/** Which strokes of a repair are seen on a frame, by their places among them. */
export const strokesOn = ({ strokes }: { strokes: readonly Stroke[] }, frame: number): number[] =>
  strokes.flatMap(({ first, last }, i) => (frame >= first && frame <= last ? [i] : []));

/** The box of a stroke, as far as it paints; pixels, not whole ones. */
export function strokeBox(stroke: Stroke): PixelBox {
  const points = strokePoints(stroke);
  const reach = stroke.width / 2 + 1;
  return {
    left: Math.min(...points.map(({ x }) => x)) - reach,
    top: Math.min(...points.map(({ y }) => y)) - reach,
    right: Math.max(...points.map(({ x }) => x)) + reach,
    bottom: Math.max(...points.map(({ y }) => y)) + reach,
  };
}

/** One frame for each set of strokes that a repair shows on some frames of its own: it is a picture by itself. */
export function strokeSets({
  content,
  first,
  last,
}: {
  content: { strokes: readonly Stroke[] };
  first: number;
  last: number;
}) {
  const sets = new Map<string, number>();
  // Nothing changes but where a stroke begins or has ended.
  const changes = content.strokes.flatMap((stroke) => [stroke.first, stroke.last + 1]);
  for (const frame of [first, ...changes].sort((a, b) => a - b))
    if (frame >= first && frame <= last) {
      const set = strokesOn(content, frame).join();
      if (set && !sets.has(set)) sets.set(set, frame);
    }
  return [...sets.values()];
}
