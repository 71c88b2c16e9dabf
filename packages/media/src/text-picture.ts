import { createCanvas } from '@napi-rs/canvas';
import { textScale, type Colour, type LayerPicture, type TextContent } from '@lurn/core';
import { familyOf, shippedFont } from './font.js';

const css = (colour: Colour): string => `rgb(${colour.map((v) => Math.round(255 * v)).join(' ')})`;

/** The most that either side of a picture of words may have. */
const longest = 8192;

/** Draws words, once for preview and export: about a middle, as large as they need, at twice the clip's pixels. The font is that of a file. */
export function drawText(content: TextContent, font = shippedFont()): LayerPicture {
  const canvas = canvasOf(content, font);
  const { width, height } = canvas;
  const { data } = canvas.getContext('2d').getImageData(0, 0, width, height);
  return { width, height, rgba: new Uint8Array(data.buffer, data.byteOffset, data.byteLength) };
}

/** The same as a PNG. */
export const drawTextPng = (content: TextContent, font = shippedFont()): Promise<Buffer> =>
  canvasOf(content, font).encode('png');

/** A picture as a PNG. */
export function pngOf({ width, height, rgba }: LayerPicture): Promise<Buffer> {
  const canvas = createCanvas(width, height);
  const context = canvas.getContext('2d');
  const image = context.createImageData(width, height);
  image.data.set(rgba);
  context.putImageData(image, 0, 0);
  return canvas.encode('png');
}

function canvasOf(content: TextContent, file: string) {
  const { text, weight, size, colour, outline, outlineColour, align, lineSpacing } = content;
  const lines = text.split('\n');
  const letters = textScale * size;
  const font = `${Math.round(Math.min(Math.max(weight, 100), 900))} ${letters}px "${familyOf(file)}"`;
  const measure = createCanvas(1, 1).getContext('2d');
  measure.font = font;
  const margin = textScale * outline + letters / 4;
  const widest = Math.max(1, ...lines.map((line) => measure.measureText(line).width));
  const step = letters * lineSpacing;
  const width = Math.min(longest, Math.ceil(widest + 2 * margin));
  const height = Math.min(longest, Math.ceil(letters + step * (lines.length - 1) + 2 * margin));
  const canvas = createCanvas(width, height);
  const context = canvas.getContext('2d');
  Object.assign(context, { font, textAlign: align, textBaseline: 'middle', lineJoin: 'round' });
  const x = align === 'left' ? margin : align === 'right' ? width - margin : width / 2;
  lines.forEach((line, i) => {
    const y = margin + letters / 2 + i * step;
    if (outline > 0) {
      Object.assign(context, { strokeStyle: css(outlineColour), lineWidth: 2 * textScale * outline });
      context.strokeText(line, x, y);
    }
    context.fillStyle = css(colour);
    context.fillText(line, x, y);
  });
  return canvas;
}
