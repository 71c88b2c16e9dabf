import { createRequire } from 'node:module';
import { copyFile, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { freshContent, textScale, type LayerPicture, type TextContent } from '@lurn/core';
import { readLayerPicture } from './layer-picture.js';
import { runTool } from './process.js';
import { familyOf, isFont } from './font.js';
import { drawText } from './text-picture.js';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-pictures-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('pictures of files', () => {
  test.each(['png', 'jpg', 'webp', 'tiff'])('%s: every pixel with its alpha', async (kind) => {
    const path = join(folder, `sign.${kind}`);
    // Red, and where alpha is possible half to be seen on the right.
    const source = "color=red:s=20x10,format=rgba,geq=r=255:g=0:b=0:a='if(lt(X,10),255,128)'";
    const lossless = kind === 'webp' ? ['-lossless', '1'] : [];
    await runTool('ffmpeg', [
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      source,
      '-frames:v',
      '1',
      ...lossless,
      '-y',
      path,
    ]);
    const { width, height, rgba } = await readLayerPicture(path);
    expect([width, height, rgba.length]).toEqual([20, 10, 800]);
    const [left, right] = [rgba.subarray(0, 4), rgba.subarray(4 * 15, 4 * 16)];
    expect(left[0]).toBeGreaterThan(245);
    expect([left[1] < 10, left[3]]).toEqual([true, 255]);
    expect(right[3]).toBe(kind === 'jpg' ? 255 : 128);
  });

  test('what is none, or cut short, is said by its name', async () => {
    const text = join(folder, 'sign.txt');
    await writeFile(text, 'a sign');
    await expect(readLayerPicture(text)).rejects.toThrow('"sign.txt" is no picture that can be read');
    await expect(readLayerPicture(join(folder, 'nowhere.png'))).rejects.toThrow(
      '"nowhere.png" is no picture',
    );
  });
});

describe('words', () => {
  const content: TextContent = { ...freshContent('text'), text: 'Withy', size: 40, colour: [1, 0, 0] };
  const inked = ({ rgba }: LayerPicture): number =>
    rgba.reduce((sum, v, i) => sum + (i % 4 === 3 ? v : 0), 0) / 255;

  test('are drawn in their colour, once for all: the same again', () => {
    const [one, other] = [drawText(content), drawText(content)];
    expect(one).toEqual(other);
    expect(inked(one)).toBeGreaterThan(500);
    for (let i = 0; i < one.rgba.length; i += 4)
      if (one.rgba[i + 3] === 255) expect([...one.rgba.subarray(i, i + 3)]).toEqual([255, 0, 0]);
    // Letters of 40 pixels, at twice the clip's, with a quarter of that about them.
    expect(one.height).toBe(textScale * 40 * 1.5);
  });

  test('heavier ones have more ink, outlined ones more still, longer ones are wider, two lines higher', () => {
    const heavy = drawText({ ...content, weight: 900 });
    const outlined = drawText({ ...content, weight: 900, outline: 3 });
    const plain = drawText(content);
    expect(inked(heavy)).toBeGreaterThan(1.1 * inked(plain));
    expect(inked(outlined)).toBeGreaterThan(1.2 * inked(heavy));
    expect(drawText({ ...content, text: 'Withy Ferry' }).width).toBeGreaterThan(1.5 * plain.width);
    expect(drawText({ ...content, text: 'Withy\nFerry', lineSpacing: 1.5 }).height).toBe(
      plain.height + textScale * 60,
    );
  });

  test('take the font of a file, and say by its name what is none', async () => {
    const file = createRequire(import.meta.url).resolve(
      '@fontsource-variable/inter/files/inter-latin-wght-normal.woff2',
    );
    const own = join(folder, 'own.woff2');
    await copyFile(file, own);
    expect([await isFont(own), await isFont(join(folder, 'sign.txt'))]).toEqual([true, false]);
    // The same font by another file: the same letters.
    expect(drawText(content, own)).toEqual(drawText(content));
    const broken = join(folder, 'broken.ttf');
    await writeFile(broken, Buffer.concat([Buffer.from([0, 1, 0, 0]), Buffer.alloc(60)]));
    expect(() => familyOf(broken)).toThrow('"broken.ttf" is no font that can be read');
  });
});
