import { apply, multiply, translation } from '../../geometry/mat3.js';
import { boxCorners } from '../../geometry/quad.js';
import { similarityMatrix } from '../../geometry/similarity.js';
import type { Colour } from '../colour.js';
import type { ContentKind } from './content-kind.js';

export const alignments = ['left', 'center', 'right'] as const;

/** Words. */
export interface TextContent {
  kind: 'text';
  /** Lines are parted by line breaks. */
  text: string;
  /** An asset's id, of a recipe the path of a font's file; empty for the font that ships. */
  font: string;
  /** 100 to 900, as far as the font goes. */
  weight: number;
  /** Of the letters, pixels. */
  size: number;
  colour: Colour;
  /** Pixels about each letter; 0 for none. */
  outline: number;
  outlineColour: Colour;
  align: (typeof alignments)[number];
  /** From line to line, in sizes. */
  lineSpacing: number;
  /** Where its middle is, pixels on the frame that it was drawn on. */
  x: number;
  y: number;
  /** Radians, clockwise, about that. */
  turn: number;
}

/** How words are drawn, by which their picture goes; where they are is no part of it. */
export const textName = ({ x: _, y: __, turn: ___, ...look }: TextContent): string => JSON.stringify(look);
/** Pixels of a picture of words to a pixel of the clip. */
export const textScale = 2;

const origin = { x: 0, y: 0 };

export const text: ContentKind<TextContent> = {
  fresh: {
    kind: 'text',
    text: 'Text',
    font: '',
    weight: 600,
    size: 48,
    colour: [1, 1, 1],
    outline: 0,
    outlineColour: [0, 0, 0],
    align: 'center',
    lineSpacing: 1.2,
    x: 0,
    y: 0,
    turn: 0,
  },
  needsOutline: false,
  middle: ({ x, y }) => [{ x, y }],
  operate: (content, { matrix }) => ({
    kind: 'text',
    asset: textName(content),
    frameFromMiddle: multiply(
      multiply(matrix, translation(content.x, content.y)),
      similarityMatrix({ ...origin, rotation: content.turn, scale: 1 }, origin),
    ),
  }),
  moved: (content, by, { rotation, scale }) => ({
    ...content,
    ...apply(by, content.x, content.y),
    ...{ turn: content.turn + rotation, size: content.size * scale },
  }),
  // A small square about its middle.
  grip: ({ x, y, size }) =>
    boxCorners({ left: x - size / 2, top: y - size / 2, right: x + size / 2, bottom: y + size / 2 }),
  assets: ({ font }) => (font ? [font] : []),
};
