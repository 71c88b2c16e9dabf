import { describe, expect, test } from '@jest/globals';
import { blended, blendModes } from '../dress/blend.js';
import { curveAt } from '../dress/curve.js';
import type { DressOperation } from '../dress/operation.js';
import { quadFromSquare, type Quad } from '../geometry/quad.js';
import { layerDefaults } from '../dress/layer.js';
import { apply, identity, invert, translation, type Mat3 } from '../geometry/mat3.js';
import { dressPicture } from './dress-picture.js';
import { layersAlone, matteAlone } from './layers-alone.js';
import type { LayerPicture } from './picture-sampler.js';
import { pictureBytes, planeLayout, type YuvFormat } from './yuv-picture.js';

const format: YuvFormat = {
  width: 96,
  height: 64,
  subsampling: '420',
  siting: 'left',
  range: 'limited',
  bits: 8,
};
const [luma, blue, red] = planeLayout(format);

/** Grain over a slope, and colours that change slowly. */
function picture(): Uint8Array {
  const levels = new Uint8Array(pictureBytes(format));
  for (let i = 0; i < luma.width * luma.height; i++) levels[i] = 60 + (i % 96) + ((i * 7919) % 13);
  for (let i = 0; i < blue.width * blue.height; i++) {
    levels[blue.offset + i] = 110 + (i % 30);
    levels[red.offset + i] = 140 - (i % 24);
  }
  return levels;
}

const corners = (left: number, top: number, right: number, bottom: number): Quad => [
  { x: left, y: top },
  { x: right, y: top },
  { x: right, y: bottom },
  { x: left, y: bottom },
];

const operation = (
  content: DressOperation['content'],
  outline: Quad,
  part: Partial<DressOperation> = {},
): DressOperation => ({
  mask: { outlines: [{ points: outline, cut: false }], featherIn: 0, featherOut: 0, choke: 0, invert: false },
  content,
  blend: 'normal',
  opacity: 1,
  matte: null,
  key: null,
  ...{ match: layerDefaults.match, exposures: [identity], frame: 0, layerId: '' },
  ...part,
});

const plain = { kind: 'cover', how: 'plain', colour: [1, 0.5, 0], strength: 8 } as const;
const outline = corners(20.5, 16, 60, 47.25);

describe('what is done within an outline', () => {
  test.each([
    ['plain', plain],
    ['averaged', { ...plain, how: 'averaged' }],
    ['mosaic', { ...plain, how: 'mosaic' }],
    ['blur', { ...plain, how: 'blur' }],
    [
      'colour',
      {
        kind: 'colour',
        hue: 1,
        saturation: 1.4,
        contrast: 1.2,
        brightness: 0.1,
        lightness: 0.2,
        curve: [0, 0, 0.5, 0.6, 1, 1],
        tint: [0, 0, 1],
        tintAmount: 0.2,
      },
    ],
  ] as const)('%s: no level beyond it is another', (_, content) => {
    const [before, after] = [picture(), picture()];
    dressPicture(after, format, [operation(content, outline)], new Map());
    let changed = 0;
    for (const { offset, width, height } of [luma, blue, red]) {
      const share = 96 / width;
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const at = offset + y * width + x;
          changed += Number(before[at] !== after[at]);
          // A chroma sample reaches a pixel to either side.
          const inside = x * share > 18 && x * share < 61 && y * share > 14 && y * share < 49;
          if (!inside) expect(after[at]).toBe(before[at]);
        }
    }
    expect(changed).toBeGreaterThan(1000);
  });

  test('a plain colour is that colour, of luma and chroma as BT.709 has them', () => {
    const levels = picture();
    dressPicture(levels, format, [operation(plain, outline)], new Map());
    const y = 0.2126 + 0.7152 * 0.5;
    expect(levels[30 * 96 + 40]).toBe(Math.round(16 + 219 * y));
    expect(levels[blue.offset + 15 * 48 + 20]).toBe(Math.round(128 + (224 * (0 - y)) / 1.8556));
    expect(levels[red.offset + 15 * 48 + 20]).toBe(Math.round(128 + (224 * (1 - y)) / 1.5748));
  });

  test('averaged is one level, the mean of what was there: nothing can be brought back', () => {
    const [before, after] = [picture(), picture()];
    const square = corners(24, 16, 56, 48);
    dressPicture(after, format, [operation({ ...plain, how: 'averaged' }, square)], new Map());
    let sum = 0;
    for (let y = 16; y < 48; y++) for (let x = 24; x < 56; x++) sum += before[y * 96 + x];
    const mean = Math.round(sum / (32 * 32));
    for (let y = 16; y < 48; y++) for (let x = 24; x < 56; x++) expect(after[y * 96 + x]).toBe(mean);
  });

  test('ten bits come to the same as eight, four times as fine', () => {
    const deep: YuvFormat = { ...format, bits: 10 };
    const fine = Uint16Array.from(picture(), (v) => 4 * v);
    const coarse = picture();
    dressPicture(fine, deep, [operation({ ...plain, how: 'blur' }, outline)], new Map());
    dressPicture(coarse, format, [operation({ ...plain, how: 'blur' }, outline)], new Map());
    coarse.forEach((v, i) => expect(Math.abs(fine[i] / 4 - v)).toBeLessThanOrEqual(0.75));
  });
});

/** A picture whose red runs across and whose green runs down. */
const board: LayerPicture = {
  width: 64,
  height: 48,
  rgba: Uint8Array.from({ length: 4 * 64 * 48 }, (_, i) => {
    const [x, y] = [(i >> 2) % 64, (i >> 2) / 64];
    return [4 * x, 5 * Math.floor(y), 80, 255][i % 4];
  }),
};

describe('a picture', () => {
  const quad: Quad = [
    { x: 18, y: 12 },
    { x: 80, y: 8 },
    { x: 74, y: 56 },
    { x: 24, y: 50 },
  ];
  const matrix = quadFromSquare(quad) as Mat3;
  const laid = (part: Partial<DressOperation> = {}): Uint8Array => {
    const levels = picture();
    const content = { kind: 'picture', asset: 'board', frameFromPicture: matrix } as const;
    dressPicture(levels, format, [operation(content, quad, part)], new Map([['board', board]]));
    return levels;
  };

  test('lies where its quad has it, in perspective', () => {
    const levels = laid();
    const back = invert(matrix);
    let worst = 0;
    for (let y = 16; y < 46; y++)
      for (let x = 30; x < 70; x++) {
        const p = apply(back, x + 0.5, y + 0.5);
        const colour = [(4 * (p.x * 64 - 0.5)) / 255, (5 * (p.y * 48 - 0.5)) / 255, 80 / 255];
        const wanted = 16 + 219 * (0.2126 * colour[0] + 0.7152 * colour[1] + 0.0722 * colour[2]);
        worst = Math.max(worst, Math.abs(levels[y * 96 + x] - wanted));
      }
    expect(worst).toBeLessThan(3);
  });

  test('shown much smaller it is the mean of what it shows, not single pixels of it', () => {
    const chequered: LayerPicture = {
      ...{ width: 256, height: 256 },
      rgba: Uint8Array.from({ length: 4 * 256 * 256 }, (_, i) =>
        i % 4 === 3 ? 255 : (((i >> 2) % 256) + (i >> 10)) % 2 ? 255 : 0,
      ),
    };
    const levels = picture();
    const small = corners(20, 10, 60, 50);
    const content = { kind: 'picture', asset: 'c', frameFromPicture: quadFromSquare(small) as Mat3 } as const;
    dressPicture(levels, format, [operation(content, small)], new Map([['c', chequered]]));
    for (let y = 14; y < 46; y++)
      for (let x = 24; x < 56; x++) expect(Math.abs(levels[y * 96 + x] - 125.5)).toBeLessThan(2);
  });

  test.each(blendModes)(
    '%s comes to what its definition says, and to nothing where nothing is laid',
    (blend) => {
      const levels = laid({ blend, opacity: 0.6 });
      const before = picture();
      const back = invert(matrix);
      let [off, count] = [0, 0];
      for (let y = 16; y < 46; y += 2)
        for (let x = 30; x < 70; x += 2) {
          const p = apply(back, x + 0.5, y + 0.5);
          const laidOn = [(4 * (p.x * 64 - 0.5)) / 255, (5 * (p.y * 48 - 0.5)) / 255, 80 / 255];
          const k = (y >> 1) * 48 + (x >> 1);
          const t = (before[y * 96 + x] - 16) / 219;
          const [cu, cv] = [(before[blue.offset + k] - 128) / 224, (before[red.offset + k] - 128) / 224];
          const [r, b] = [t + cv * 1.5748, t + cu * 1.8556];
          const below = [r, (t - 0.2126 * r - 0.0722 * b) / 0.7152, b];
          const made = below.map((v, i) => {
            const base = Math.min(Math.max(v, 0), 1);
            const mixed =
              blend === 'plus-lighter'
                ? Math.min(1, base + 0.6 * laidOn[i])
                : base + 0.6 * (blended[blend](base, laidOn[i]) - base);
            return v + mixed - base;
          });
          off += Math.abs(
            16 + 219 * (0.2126 * made[0] + 0.7152 * made[1] + 0.0722 * made[2]) - levels[y * 96 + x],
          );
          count++;
        }
      // Rounding, and a picture taken between its pixels.
      expect(off / count).toBeLessThan(1.5);
      expect([levels[2 * 96 + 2], levels[blue.offset + 50]]).toEqual([
        before[2 * 96 + 2],
        before[blue.offset + 50],
      ]);
    },
  );
});

test('words lie about their middle, at the size that they were drawn for, and nothing where they were not drawn', () => {
  const [white, before] = [picture(), picture()];
  const words: LayerPicture = { width: 40, height: 20, rgba: new Uint8Array(4 * 40 * 20).fill(255) };
  const content = {
    kind: 'text',
    asset: 'w',
    frameFromMiddle: [1, 0, 48, 0, 1, 32, 0, 0, 1] as Mat3,
  } as const;
  const bare = { ...operation(plain, outline).mask, outlines: [] };
  const operationOf = operation(plain, outline, { mask: bare, content });
  dressPicture(white, format, [operationOf], new Map([['w', words]]));
  // Twice the clip's pixels: 20 by 10 about 48, 32.
  for (let y = 0; y < 64; y++)
    for (let x = 0; x < 96; x++) {
      const isIn = x >= 38 && x < 58 && y >= 27 && y < 37;
      expect([x, y, white[y * 96 + x]]).toEqual([x, y, isIn ? 235 : before[y * 96 + x]]);
    }
  const none = picture();
  dressPicture(none, format, [operationOf], new Map());
  expect(none).toEqual(before);
});

describe('what is held out', () => {
  const whiteCover = { ...plain, colour: [1, 1, 1] } as const;
  const other = corners(40, 0, 96, 64);
  test.each(['inside', 'outside'] as const)('by another shape: only %s of it', (keep) => {
    const [levels, before] = [picture(), picture()];
    const mask = { ...operation(plain, outline).mask, outlines: [{ points: other, cut: false }] };
    dressPicture(levels, format, [operation(whiteCover, outline, { matte: { mask, keep } })], new Map());
    expect(levels[30 * 96 + 50]).toBe(keep === 'inside' ? 235 : before[30 * 96 + 50]);
    expect(levels[30 * 96 + 30]).toBe(keep === 'inside' ? before[30 * 96 + 30] : 235);
  });

  test('by a colour of the picture below, as far as its range goes', () => {
    const levels = picture();
    // The left half is green.
    for (let y = 0; y < blue.height; y++)
      for (let x = 0; x < 24; x++)
        [levels[blue.offset + y * 48 + x], levels[red.offset + y * 48 + x]] = [60, 50];
    const before = levels.slice();
    const t = (60 - 128) / 224;
    const s = (50 - 128) / 224;
    // Any colour of that chroma: its lightness does not count.
    const y = 0.45;
    const colour = [
      y + s * 1.5748,
      (y - 0.2126 * (y + s * 1.5748) - 0.0722 * (y + t * 1.8556)) / 0.7152,
      y + t * 1.8556,
    ] as const;
    const key = { colour, range: 0.05, softness: 0.02, choke: 0, spill: 0, keep: 'outside' } as const;
    dressPicture(levels, format, [operation(whiteCover, outline, { key })], new Map());
    expect(levels[30 * 96 + 30]).toBe(before[30 * 96 + 30]);
    expect(levels[30 * 96 + 56]).toBe(235);
  });

  test('by a colour drawn in, and its tinge taken off what stands beside it, not off what is far', () => {
    const levels = picture();
    const width = blue.width;
    // Green on the left; a tinge of it everywhere else.
    for (let i = 0; i < width * blue.height; i++) {
      const isGreen = i % width < 20;
      levels[blue.offset + i] = isGreen ? 60 : 110;
      levels[red.offset + i] = isGreen ? 50 : 108;
    }
    const before = levels.slice();
    const t = (60 - 128) / 224;
    const s = (50 - 128) / 224;
    const y = 0.45;
    const colour = [
      y + s * 1.5748,
      (y - 0.2126 * (y + s * 1.5748) - 0.0722 * (y + t * 1.8556)) / 0.7152,
      y + t * 1.8556,
    ] as const;
    const key = { colour, range: 0.05, softness: 0.02, choke: 4, spill: 1, keep: 'outside' } as const;
    const all = corners(0, 0, 96, 64);
    // Nothing is laid where the cover is not to be seen at all: what changes is the tinge.
    dressPicture(levels, format, [operation({ ...plain, colour: [1, 1, 1] }, all, { key })], new Map());
    // Four pixels within the green's edge, at 40, are drawn in: the layer is seen there.
    expect(levels[30 * 96 + 30]).toBe(before[30 * 96 + 30]);
    expect(levels[30 * 96 + 38]).toBe(235);
    const tinged = before.slice();
    dressPicture(
      tinged,
      format,
      [operation({ ...plain, colour: [1, 1, 1] }, all, { key, opacity: 0.001 })],
      new Map(),
    );
    expect(tinged).toEqual(before);
    const clean = before.slice();
    const nothing: LayerPicture = { width: 1, height: 1, rgba: new Uint8Array(4) };
    const matrix = quadFromSquare(all);
    if (!matrix) throw new Error('It is a quad.');
    const content = { kind: 'picture', asset: 'nothing', frameFromPicture: matrix } as const;
    const shown = new Map([['nothing', nothing]]);
    dressPicture(clean, format, [operation(content, all, { key: { ...key, choke: 0 } })], shown);
    const [beside, far] = [15 * width + 21, 15 * width + 40];
    expect(clean[blue.offset + beside]).toBeGreaterThan(before[blue.offset + beside] + 8);
    expect(clean[blue.offset + far]).toBe(before[blue.offset + far]);
  });
});

test('curves go through their points without overshooting; without any they are straight', () => {
  const points = [0, 0.1, 0.3, 0.1, 0.6, 0.8, 1, 0.9];
  for (let i = 0; i < 4; i++) expect(curveAt(points, points[2 * i])).toBeCloseTo(points[2 * i + 1], 9);
  let last = 0;
  for (let x = 0; x <= 1; x += 0.01) {
    const y = curveAt(points, x);
    expect(y).toBeGreaterThanOrEqual(last - 1e-12);
    last = y;
  }
  expect(curveAt([], 0.37)).toBe(0.37);
});

describe('a picture that is to sit in what is about it', () => {
  const half: LayerPicture = {
    width: 2,
    height: 1,
    rgba: new Uint8Array([0, 0, 0, 255, 255, 255, 255, 255]),
  };
  const place = corners(20, 10, 80, 50);
  const matrix = quadFromSquare(place);
  if (!matrix) throw new Error('It is a quad.');
  const content = { kind: 'picture', asset: 'half', frameFromPicture: matrix } as const;
  const laid = (part: Partial<DressOperation>): Uint8Array => {
    const levels = picture();
    dressPicture(levels, format, [operation(content, place, part)], new Map([['half', half]]));
    return levels;
  };

  test('is softened by so many pixels, edge and all', () => {
    const white: LayerPicture = { width: 1, height: 1, rgba: new Uint8Array(4).fill(255) };
    const levels = new Uint8Array(pictureBytes(format)).fill(16, 0, 96 * 64).fill(128, 96 * 64);
    const match = { ...layerDefaults.match, soften: 3 };
    dressPicture(levels, format, [operation(content, place, { match })], new Map([['half', white]]));
    // An edge softened by a Gaussian: half at the edge itself, 84 % a standard deviation within.
    const share = (x: number): number => (levels[30 * 96 + x] - 16) / 219;
    expect((share(19) + share(20)) / 2).toBeCloseTo(0.5, 1);
    expect((share(22) + share(23)) / 2).toBeCloseTo(0.841, 1);
    expect((share(16) + share(17)) / 2).toBeCloseTo(0.159, 1);
  });

  test('has black and white where they are there, and grain as strong as is asked', () => {
    const match = { ...layerDefaults.match, black: 0.2, white: 0.7 };
    const levels = laid({ match });
    expect(Math.abs(levels[30 * 96 + 24] - (16 + 219 * 0.2))).toBeLessThanOrEqual(1);
    expect(Math.abs(levels[30 * 96 + 76] - (16 + 219 * 0.7))).toBeLessThanOrEqual(1);
    const grainy = laid({ match: { ...match, grain: 0.03 } });
    const off = [];
    for (let y = 14; y < 46; y++)
      for (let x = 22; x < 34; x++) off.push(grainy[y * 96 + x] - levels[y * 96 + x]);
    const deviation = Math.sqrt(off.reduce((sum, v) => sum + v * v, 0) / off.length);
    expect(deviation / (219 * 0.03)).toBeGreaterThan(0.85);
    expect(deviation / (219 * 0.03)).toBeLessThan(1.15);
    // Another frame has other grain, the same frame the same.
    expect(laid({ match: { ...match, grain: 0.03 } })).toEqual(grainy);
    expect(laid({ match: { ...match, grain: 0.03 }, frame: 1 })).not.toEqual(grainy);
  });

  test('is blurred along its way while the shutter is open', () => {
    const exposures = Array.from({ length: 16 }, (_, i) => translation(i - 7.5, 0));
    const levels = laid({ exposures });
    // Its edge is a ramp as long as the way: half at its middle.
    const before = picture();
    const level = (x: number): number =>
      (levels[30 * 96 + x] - before[30 * 96 + x]) / (16 - before[30 * 96 + x]);
    expect(level(19) + level(20)).toBeCloseTo(1, 1);
    expect(level(11)).toBeCloseTo(0, 9);
    expect(level(28)).toBeCloseTo(1, 1);
  });
});

test('layers alone, laid over the source again, make the dressed picture', () => {
  const withAlpha = { ...format, alpha: true };
  const source = picture();
  const dressed = new Uint8Array(pictureBytes(withAlpha));
  dressed.set(source);
  const matte = new Float32Array(96 * 64);
  const soft = { ...operation(plain, outline).mask, featherOut: 6 };
  const one = operation(plain, outline, { mask: soft, opacity: 0.8 });
  dressPicture(dressed, format, [one], new Map(), undefined, matte);
  const wanted = dressed.slice();
  layersAlone(dressed, source, format, matte);
  const [, , , alpha] = planeLayout(withAlpha);
  for (let i = 0; i < 96 * 64; i++) {
    const a = dressed[alpha.offset + i] / 255;
    const again = source[i] + a * (dressed[i] - source[i]);
    // What is covered by next to nothing has no colour that could be told.
    expect(Math.abs(again - wanted[i])).toBeLessThanOrEqual(a < 0.03 ? 4 : 1.5);
  }
  expect(Math.max(...matte)).toBeCloseTo(0.8, 5);
  const shown = source.slice();
  matteAlone(shown, format, matte);
  expect(shown[30 * 96 + 40]).toBe(Math.round(16 + 219 * 0.8));
  expect([shown[0], shown[blue.offset], shown[shown.length - 1]]).toEqual([16, 128, 128]);
});
