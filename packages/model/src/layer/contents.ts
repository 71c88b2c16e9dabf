import {
  alignments,
  coverWays,
  freshContent,
  plays,
  type ClipContent,
  type ColourContent,
  type CoverContent,
  type FillContent,
  type LayerContent,
  type PictureContent,
  type RepairContent,
  type TextContent,
} from '@lurn/core';
import {
  Choice,
  Colour,
  farthest,
  Flag,
  Frame,
  Num,
  Numbers,
  Parts,
  Pixels,
  Reference,
  Share,
  Whole,
  Words,
  type Kind,
} from '../fields.js';
import { mostStrokes, StrokeRecord } from './stroke.js';

const freshCover = freshContent('cover');
const freshColour = freshContent('colour');
const freshText = freshContent('text');
const freshFill = freshContent('fill');

/** An angle, radians. */
const mostTurn = 100;
/** A picture's or a font's name. */
const longestPath = 1000;
/** Samples of a curve: pairs. */
const mostCurve = 128;

const Quad = (): PropertyDecorator =>
  Numbers({
    ...{ least: 8, most: 8, bounds: [-farthest, farthest] },
    description: 'Corners, upper left first and on clockwise: x, y, x, y …',
  });

export class CoverRecord implements CoverContent {
  @Choice(['cover']) kind = freshCover.kind;
  @Choice(coverWays) how: CoverContent['how'] = freshCover.how;
  @Colour({ description: 'Of a plain one' }) colour: CoverContent['colour'] = freshCover.colour;

  @Num(1, 1000, { description: 'A mosaic’s side, a blur’s radius, pixels' })
  strength: number = freshCover.strength;
}

export class ColourRecord implements ColourContent {
  @Choice(['colour']) kind = freshColour.kind;
  @Num(-mostTurn, mostTurn, { description: 'Radians' }) hue: number = freshColour.hue;
  @Num(0, 100, { description: 'A factor' }) saturation: number = freshColour.saturation;
  @Num(0, 100, { description: 'A factor' }) contrast: number = freshColour.contrast;
  @Num(-1, 1, { description: 'Added' }) brightness: number = freshColour.brightness;

  @Num(-1, 1, { description: 'Towards white, or below 0 towards black' })
  lightness: number = freshColour.lightness;

  @Numbers({
    ...{ most: 2 * mostCurve, by: 2, bounds: [0, 1] },
    description:
      'Brightness that comes of a brightness: x, y, x, y … with x rising; empty for a straight line',
  })
  curve: readonly number[] = freshColour.curve;

  @Colour({ description: 'What it is tinted towards' }) tint: ColourContent['tint'] = freshColour.tint;
  @Share({ description: 'How far' }) tintAmount: number = freshColour.tintAmount;
}

export class PictureRecord implements PictureContent {
  @Choice(['picture']) kind = freshContent('picture').kind;

  @Words(0, longestPath, { description: 'Its id; of a recipe a path from its own folder on' })
  asset!: string;

  @Quad() quad!: number[];
}

export class ClipRecord implements ClipContent {
  @Choice(['clip']) kind = freshContent('clip').kind;

  @Reference({
    most: longestPath,
    description: 'Its id; of a recipe a path from its own folder on; empty for the clip itself',
  })
  clip: string = '';

  @Frame({ description: 'The frame of it that is shown on the first of the layer’s' })
  from: number = 0;

  @Choice(plays, { description: 'Over and over, held at its end, or that frame alone' })
  play: ClipContent['play'] = freshContent('clip').play;

  @Quad() quad!: number[];
}

export class TextRecord implements TextContent {
  @Choice(['text']) kind = freshText.kind;
  @Words(0, 2000) text: string = freshText.text;

  @Words(0, longestPath, {
    description: 'An id; of a recipe the path of a font’s file; empty for the one that ships',
  })
  font: string = freshText.font;

  @Num(1, 1000, { description: '100 to 900, as far as the font goes' }) weight: number = freshText.weight;
  @Num(1, 2000, { description: 'Pixels' }) size: number = freshText.size;
  @Colour({ description: 'Of the letters' }) colour: TextContent['colour'] = freshText.colour;
  @Num(0, 200, { description: 'Pixels about each letter' }) outline: number = freshText.outline;

  @Colour({ description: 'Of the outline' })
  outlineColour: TextContent['colour'] = freshText.outlineColour;

  @Choice(alignments) align: TextContent['align'] = freshText.align;
  @Num(0.1, 10, { description: 'From line to line, in sizes' }) lineSpacing: number = freshText.lineSpacing;
  @Pixels({ description: 'Its middle' }) x: number = freshText.x;
  @Pixels() y: number = freshText.y;

  @Num(-mostTurn, mostTurn, { description: 'Radians, clockwise, about its middle' })
  turn: number = freshText.turn;
}

const followed = 'Whether it takes on each frame’s light, and its grain';

/**
 * What is there without what passes before it, taken from frames of the clip on which it is seen: of each pixel the median, in
 * the light of the frame that the layer was drawn on.
 */
export class FillRecord implements FillContent {
  @Choice(['fill']) kind = freshFill.kind;

  @Whole(1, 61, { description: 'So many frames are looked at, spread over the layer’s own' })
  frames: number = freshFill.frames;

  @Flag({ description: followed }) follow: boolean = freshFill.follow;
}

/** What is painted with the brush: colours, and what is copied of the clip. */
export class RepairRecord implements RepairContent {
  @Choice(['repair']) kind = freshContent('repair').kind;

  @Parts(() => StrokeRecord, { most: mostStrokes, description: 'One over another, in order' })
  strokes: StrokeRecord[] = [];

  @Flag({ description: followed }) follow: boolean = freshContent('repair').follow;
}

/** The description of each kind of thing that a layer may show. */
export const contentRecords: { [K in LayerContent['kind']]: Kind<Extract<LayerContent, { kind: K }>> } = {
  cover: CoverRecord,
  colour: ColourRecord,
  picture: PictureRecord,
  clip: ClipRecord,
  text: TextRecord,
  fill: FillRecord,
  repair: RepairRecord,
};
