import { strokeDefaults, strokeKinds, strokeStep, type Stroke } from '@lurn/core';
import { Choice, Colour, farthest, Flag, Frame, Num, Numbers, Share } from '../fields.js';

/** A repair's strokes, and a stroke's points. */
export const mostStrokes = 500;
export const mostStrokePoints = 2000;
/** Pixels across. */
const [thinnest, widest] = [0.5, 2000];

const { how, width, soft, strength, buildUp, colour, from, aside, first } = strokeDefaults(1);
const far = [-farthest, farthest] as const;

/** A stroke of the brush, pixels of the clip on the frame that the layer was drawn on. */
export class StrokeRecord implements Stroke {
  @Choice(strokeKinds, {
    description: 'Lays a colour, copies, copies with light and colour fitted at the border, or takes away',
  })
  how: Stroke['how'] = how;

  @Numbers({
    ...{ least: strokeStep, most: strokeStep * mostStrokePoints, by: strokeStep },
    ...{ bounds: far, each: [far, far, [0, 1]] },
    description: 'x, y and pressure (0 to 1) of each point, one after another',
  })
  points!: number[];

  @Num(thinnest, widest, { description: 'Across, at full pressure, pixels' })
  width: number = width;

  @Share({ description: 'The share of its radius over which it fades' }) soft: number = soft;
  @Share({ description: 'How much is laid' }) strength: number = strength;
  @Flag({ description: 'Whether it adds up where it passes over itself' }) buildUp: boolean = buildUp;

  @Colour({ description: 'What it lays, where it lays a colour: red, green and blue' })
  colour: Stroke['colour'] = colour;

  @Frame({ description: 'Of a copy, the frame that it is taken from' }) from: number = from;

  @Numbers({
    ...{ least: 2, most: 2, bounds: far },
    description: 'How far aside there it is taken from, as that frame is carried to the layer’s, pixels',
  })
  aside: Stroke['aside'] = aside;

  @Frame({ description: 'The first frame on which it is seen' }) first: number = first;

  @Frame({ optional: true, description: 'The last; the clip’s where it is left out' })
  last!: number;
}
