import { easings, layerDefaults, type LayerShape, type ShapeKey, type ShapePart } from '@lurn/core';
import { Choice, Flag, Frame, Num, Part, Parts } from '../fields.js';
import { SplineRecord } from '../spline.js';
import { CarrierRecord } from './carrier.js';

const { featherIn, featherOut, choke, invert } = layerDefaults.shape;

/** How far a soft edge, or the drawing in of one, may reach, pixels. */
export const mostFeather = 1000;
/** Outlines to a shape, and keys of them. */
const [mostParts, mostShapeKeys] = [50, 1000];

/** A closed outline that is added to what is seen of a layer, or cut out of it. */
export class ShapePartRecord implements ShapePart {
  @Part(() => SplineRecord) spline!: SplineRecord;
  @Flag({ description: 'Taken out of what is seen' }) cut: boolean = false;
}

/** Outlines on a frame. */
export class ShapeKeyRecord implements ShapeKey {
  @Frame() frame!: number;
  @Choice(easings) easing!: ShapeKey['easing'];
  @Parts(() => ShapePartRecord, { most: mostParts }) parts!: ShapePartRecord[];
}

/** What of a layer is seen. */
export class ShapeRecord implements LayerShape {
  @Parts(() => ShapePartRecord, { most: mostParts, description: 'Closed outlines' })
  parts: ShapePartRecord[] = [];

  @Num(0, mostFeather, { description: 'Pixels over which it fades within its outline' })
  featherIn: number = featherIn;

  @Num(0, mostFeather, { description: 'Pixels over which it fades beyond its outline' })
  featherOut: number = featherOut;

  @Num(-mostFeather, mostFeather, {
    description: 'By how many pixels it is drawn in; spread where negative',
  })
  choke: number = choke;

  @Flag() invert: boolean = invert;

  @Part(() => CarrierRecord, { nullable: true, description: 'What the outlines ride on by themselves' })
  carrier: CarrierRecord | null = null;

  @Parts(() => ShapeKeyRecord, { most: mostShapeKeys, description: 'Outlines on other frames' })
  keys: ShapeKeyRecord[] = [];
}
