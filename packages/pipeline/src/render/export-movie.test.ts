import { mkdir, mkdtemp, readdir, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import {
  codecKinds,
  codecs,
  containerKinds,
  identity,
  noFraming,
  similarityMatrix,
  stillMotion,
  type SteadySettings,
} from '@lurn/core';
import {
  encodingFor,
  frameTime,
  indexClip,
  openClip,
  readFrames,
  startFfmpeg,
  unzip,
  type Clip,
  type ClipIndex,
  type Encoding,
} from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { exportMovie } from './export-movie.js';
import { placementsFrom, placeStep } from './steps.js';

const frames = 12;
const size = { width: 192, height: 112 };
const still = new Float64Array(9 * frames);
for (let k = 0; k < frames; k++) still.set(identity, 9 * k);

let folder: string;
let clip: Clip;
let index: ClipIndex;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-export-'));
  const path = join(folder, 'moving.mp4');
  await makeStripClip({
    ...{ path, frames, ...size, sound: 0.48 },
    position: (k) => ({ x: 2 * k, y: 3 * Math.sin(k) }),
  });
  clip = await openClip(path);
  index = await indexClip(clip);
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** The luma of frames, each by itself. */
async function lumaOf(of: Clip, wanted: readonly number[]): Promise<Uint8Array[]> {
  const pictures: Uint8Array[] = [];
  let slot = new Uint8Array(of.width * of.height);
  for await (const { frame, data } of readFrames(of, { first: 0, planes: 'luma', slot: () => slot })) {
    if (wanted.includes(frame)) pictures.push(data.slice());
    slot = new Uint8Array(of.width * of.height);
  }
  return pictures;
}

function psnr(a: Uint8Array, b: Uint8Array): number {
  const squares = a.reduce((sum, level, i) => sum + (level - b[i]) ** 2, 0);
  return 10 * Math.log10((255 * 255 * a.length) / Math.max(squares, 1e-9));
}

const exported = async (
  name: string,
  encoding: Encoding,
  settings: Pick<SteadySettings, 'framing' | 'edge' | 'output' | 'resampling'> = { framing: noFraming },
  placements = still,
): Promise<string> => {
  const path = join(folder, name);
  const steps = [placeStep({ placements, rows: null, zooms: null }, clip, settings)];
  await exportMovie({ clip, index, steps, first: 0, last: frames - 1, encoding, path });
  return path;
};

describe.each(codecs)('%s', (codec) => {
  const kind = codecKinds[codec];
  const [container] = kind.containers;
  test.each(kind.bits)(
    'is read back at %i bits: frames counted, the first and the last as they were',
    async (bits) => {
      const encoding = encodingFor({ codec, bits }, clip, false);
      const path = await exported(`${codec}-${bits}${containerKinds[container].ending}`, encoding);
      const [first, last] = await lumaOf(clip, [0, frames - 1]);
      if (container === 'png') {
        const pictures = await unzip(path, join(folder, `png-${bits}`));
        expect(pictures.map(({ name }) => name)).toEqual(
          Array.from({ length: frames }, (_, k) => `${String(k).padStart(6, '0')}.png`),
        );
        const picture = await planeOf(
          pictures[frames - 1].path,
          [],
          'scale=out_color_matrix=bt709:out_range=tv,format=yuv444p,extractplanes=y',
        );
        expect(psnr(picture, last)).toBeGreaterThan(40);
        return;
      }
      const made = await openClip(path);
      const madeIndex = await indexClip(made);
      expect(madeIndex.pts).toHaveLength(frames);
      expect([made.width, made.height, made.frameRate]).toEqual([size.width, size.height, clip.frameRate]);
      // FFV1 of twelve bits is named so; ProRes is read as it decodes, with twelve.
      if (codec !== 'prores4444') expect(made.bits).toBe(bits);
      expect(made.colour.space).toBe(clip.colour.space);
      expect(made.sound).toHaveLength(1);
      expect(frameTime(madeIndex, frames - 1) - frameTime(madeIndex, 0)).toBeCloseTo((frames - 1) / 25, 2);
      const [a, b] = await lumaOf(made, [0, frames - 1]);
      // The codec's own loss; without loss nothing is lost.
      const least = codec === 'ffv1' && bits === 8 ? 100 : 36;
      expect(psnr(a, first)).toBeGreaterThan(least);
      expect(psnr(b, last)).toBeGreaterThan(least);
    },
  );

  test('carries transparency, or says that it has none', async () => {
    if (kind.alpha.length === 0) {
      expect(() => encodingFor({ codec }, clip, true)).toThrow(
        /has no transparency: choose ProRes 4444, VP9/,
      );
      return;
    }
    const small = new Float64Array(still.length);
    for (let k = 0; k < frames; k++)
      small.set(similarityMatrix({ x: 0, y: 0, rotation: 0, scale: 0.5 }, { x: 96, y: 56 }), 9 * k);
    const encoding = encodingFor({ codec, bits: kind.alpha[0] }, clip, true);
    const settings = { framing: noFraming, edge: 'transparent' as const };
    const path = await exported(
      `clear-${codec}${containerKinds[container].ending}`,
      encoding,
      settings,
      small,
    );
    let source = path;
    if (container === 'png') [{ path: source }] = await unzip(path, join(folder, 'clear'));
    // VP9's is only seen by the library's own decoder.
    const decoder = codec === 'vp9' ? ['-c:v', 'libvpx-vp9'] : [];
    const alpha = await planeOf(source, decoder, 'alphaextract,format=gray');
    const at = (x: number, y: number): number => alpha[y * size.width + x];
    expect([at(96, 56), at(60, 40), at(5, 5), at(180, 100)].map((v) => Math.round(v / 255))).toEqual([
      1, 1, 0, 0,
    ]);
  });
});

/** A plane of the first picture of a file, as ffmpeg filters make it. */
async function planeOf(path: string, decoder: readonly string[], filters: string): Promise<Buffer> {
  const tool = startFfmpeg([
    ...decoder,
    ...['-i', path, '-vf', filters, '-frames:v', '1', '-f', 'rawvideo', 'pipe:1'],
  ]);
  const parts: Buffer[] = [];
  for await (const part of tool.process.stdout as AsyncIterable<Buffer>) parts.push(part);
  await tool.done;
  return Buffer.concat(parts);
}

test('what a codec or a file cannot is said', () => {
  expect(() => encodingFor({ codec: 'prores', bits: 8 }, clip, false)).toThrow(
    'ProRes 422 has no 8 bits: choose 10.',
  );
  expect(() => encodingFor({ codec: 'vp9', container: 'mp4' }, clip, false)).toThrow(
    'VP9 is not written into .mp4 files: choose .webm or .mkv.',
  );
  expect(encodingFor({ container: 'webm' }, clip, false).codec).toBe('vp9');
  expect(encodingFor({}, { bits: 10 }, false).bits).toBe(10);
});

test('an output of its own size is written with square pixels, and smaller ones without stairs', async () => {
  const path = await exported('square.mp4', encodingFor({}, clip, false), {
    framing: noFraming,
    output: { width: 64, height: 64 },
  });
  const made = await openClip(path);
  expect([made.width, made.height, made.pixelAspect]).toEqual([64, 64, '1:1']);
});

test('edges are filled from frames before and after, which are kept at hand; each frame stays its own', async () => {
  const encoding = encodingFor({ codec: 'ffv1' }, clip, false);
  // The strip's texture moves: each frame is put back to where it was on the first, seen from a little farther off.
  const held = new Float64Array(9 * frames);
  const moved = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++) {
    moved.set([1, 0, 2 * k, 0, 1, 3 * Math.sin(k), 0, 0, 1], 9 * k);
    held.set([0.9, 0, 9.6 - 1.8 * k, 0, 0.9, 5.6 - 2.7 * Math.sin(k), 0, 0, 1], 9 * k);
  }
  const movies: Uint8Array[][] = [];
  for (const edge of ['fill', 'black'] as const) {
    const path = join(folder, `edge-${edge}.mkv`);
    const motion = { ...stillMotion(frames, 0, { x: 96, y: 56 }), matrices: moved };
    const step = placeStep({ placements: held, rows: null, zooms: null, motion }, clip, {
      framing: noFraming,
      edge,
    });
    await exportMovie({ clip, index, steps: [step], first: 2, last: 9, encoding, path });
    const made = await openClip(path);
    expect((await indexClip(made)).pts).toHaveLength(8);
    movies.push(await lumaOf(made, [0, 1, 2, 3, 4, 5, 6, 7]));
  }
  movies[0].forEach((filled, i) => {
    const black = movies[1][i];
    let bare = 0;
    for (let y = 0; y < size.height; y++)
      for (let x = 0; x < size.width; x++) {
        const at = y * size.width + x;
        // Well within the frame nothing is another.
        if (x > 30 && x < 150 && y > 25 && y < 87) expect(filled[at]).toBe(black[at]);
        if (filled[at] < 18) bare++;
      }
    expect(bare).toBeLessThan(60);
    // Every second pixel row and column of the border, where black shows some hundreds.
    expect(black.reduce((sum, level) => sum + (level < 18 ? 1 : 0), 0)).toBeGreaterThan(800);
  });
});

describe('treated in its held form and given back', () => {
  const shaken = new Float64Array(9 * frames);
  for (let k = 0; k < frames; k++)
    shaken.set(
      similarityMatrix(
        { x: 4 * Math.sin(k), y: 3 * Math.cos(2 * k), rotation: 0.02 * Math.sin(k), scale: 1.15 },
        { x: 96, y: 56 },
      ),
      9 * k,
    );

  test('untouched it is the original: beyond its reach bit for bit, within it nearly; frames and sound as they were', async () => {
    const lossless = encodingFor({ codec: 'ffv1' }, clip, false);
    const held = await openClip(await exported('held.mkv', lossless, { framing: noFraming }, shaken));
    const path = join(folder, 'back.mkv');
    await exportMovie({
      ...{ clip, index, first: 0, last: frames - 1, encoding: lossless, path },
      beside: { clip: held, index: await indexClip(held), first: 0 },
      steps: [{ kind: 'give-back', placements: shaken, rows: null, first: 2, last: frames - 1 }],
    });
    const back = await openClip(path);
    expect((await indexClip(back)).pts).toHaveLength(frames);
    expect(back.sound).toHaveLength(1);
    const all = Array.from({ length: frames }, (_, k) => k);
    const [before, after] = [await lumaOf(clip, all), await lumaOf(back, all)];
    // Frames that were not treated stay as they are.
    expect(psnr(before[0], after[0])).toBeGreaterThan(100);
    let [squares, inside, differing] = [0, 0, 0];
    for (let k = 2; k < frames; k++) {
      const m = shaken.subarray(9 * k);
      for (let y = 0; y < size.height; y++)
        for (let x = 0; x < size.width; x++) {
          const u = m[0] * (x + 0.5) + m[1] * (y + 0.5) + m[2];
          const v = m[3] * (x + 0.5) + m[4] * (y + 0.5) + m[5];
          const d = before[k][y * size.width + x] - after[k][y * size.width + x];
          if (u < 0 || v < 0 || u > size.width || v > size.height) differing += d === 0 ? 0 : 1;
          else {
            squares += d * d;
            inside++;
          }
        }
    }
    expect(differing).toBe(0);
    expect(10 * Math.log10((255 * 255 * inside) / squares)).toBeGreaterThan(40);
  });

  test('placements of a part of the clip are those of its frames', () => {
    const table = placementsFrom(
      { first: 3, frameFromReference: new Float64Array(18), outputFromFrame: shaken.slice(0, 18) },
      6,
    );
    expect([...table.subarray(27, 45)]).toEqual([...shaken.subarray(0, 18)]);
    expect([...table.subarray(0, 9)]).toEqual([...identity]);
  });
});

test.each([
  ['side', 2 * size.width, size.height],
  ['stack', size.width, 2 * size.height],
  ['wipe', size.width, size.height],
] as const)('a comparison, %s: both pictures, where they should be', async (layout, width, height) => {
  const encoding = encodingFor({ codec: 'ffv1' }, clip, false);
  const dark = await openClip(
    await exported(
      'dark.mkv',
      encoding,
      { framing: noFraming },
      Float64Array.from(still, (v) => v && 30 * v),
    ),
  );
  const path = join(folder, `pair-${layout}.mkv`);
  await exportMovie({
    ...{ clip, index, first: 0, last: frames - 1, encoding, path },
    beside: { clip: dark, index: await indexClip(dark), first: 0 },
    steps: [{ kind: 'pair', layout, after: 'beside', first: 0 }],
    words: [{ text: 'Before', x: 0.6, y: 0.8, size: 0.05 }],
  });
  const made = await openClip(path);
  expect([made.width, made.height]).toEqual([width, height]);
  const [[picture], [before], [after]] = [
    await lumaOf(made, [6]),
    await lumaOf(clip, [6]),
    await lumaOf(dark, [6]),
  ];
  const strip = (of: Uint8Array, x: number, y: number, stride: number): number[] => [
    ...of.subarray(y * stride + x, y * stride + x + 16),
  ];
  if (layout === 'wipe') {
    // A wipe has hardly begun on its sixth frame: the second picture is almost all of it.
    expect(strip(picture, 60, 60, width)).toEqual(strip(after, 60, 60, size.width));
    return;
  }
  expect(strip(picture, 20, 60, width)).toEqual(strip(before, 20, 60, size.width));
  const [dx, dy] = layout === 'side' ? [size.width, 0] : [0, size.height];
  const other = strip(picture, dx + 20, dy + 20, width);
  strip(after, 20, 20, size.width).forEach((level, i) =>
    expect(Math.abs(level - other[i])).toBeLessThanOrEqual(1),
  );
});

test('a failed export leaves nothing behind', async () => {
  const path = join(folder, 'nowhere', 'movie.mp4');
  const steps = [placeStep({ placements: still, rows: null, zooms: null }, clip, { framing: noFraming })];
  const encoding = encodingFor({}, clip, false);
  await expect(exportMovie({ clip, index, steps, first: 0, last: 3, encoding, path })).rejects.toThrow(
    /No such file/,
  );
  expect((await readdir(folder)).filter((name) => name.includes('partial'))).toEqual([]);
});

test.each(codecs)(
  'a disk that fills up while %s is written is told of, and nothing is left behind',
  async (codec) => {
    const encoding = encodingFor({ codec }, clip, false);
    const path = join(folder, `full${containerKinds[encoding.container].ending}`);
    if (codec === 'png') {
      await mkdir(`${path}.partial.d`);
      await symlink('/dev/full', join(`${path}.partial.d`, '000003.png'));
    } else await symlink('/dev/full', `${path}.partial`);
    const steps = [placeStep({ placements: still, rows: null, zooms: null }, clip, { framing: noFraming })];
    const range = { first: 0, last: frames - 1 };
    await expect(exportMovie({ clip, index, steps, ...range, encoding, path })).rejects.toThrow(
      /No space left/,
    );
    expect((await readdir(folder)).filter((name) => name.startsWith('full'))).toEqual([]);
  },
);

test.each(['mov', 'mp4', 'mkv'] as const)(
  'a timecode goes on in %s, from the first frame that is written',
  async (container) => {
    const timed: Clip = { ...clip, timecode: '10:00:00:20' };
    const encoding = encodingFor({ codec: 'h264', container }, clip, false);
    const path = join(folder, `timed.${container}`);
    await exportMovie({ clip: timed, index, steps: [], first: 7, last: frames - 1, encoding, path });
    // 25 frames a second.
    expect((await openClip(path)).timecode).toBe('10:00:01:02');
  },
);

test('the source and what is made of it stand together, whatever the size of the output', async () => {
  const wide: Clip = { ...clip, pixelAspect: '4:3' };
  const settings = { framing: noFraming, output: { width: 96, height: 96 } };
  const path = join(folder, 'together.mkv');
  await exportMovie({
    ...{ clip: wide, index, first: 0, last: frames - 1, path },
    encoding: encodingFor({ codec: 'ffv1' }, clip, false),
    steps: [
      placeStep({ placements: still, rows: null, zooms: null }, wide, settings),
      { kind: 'pair', layout: 'side', after: 'made', first: 0 },
    ],
  });
  const made = await openClip(path);
  // The square output is fitted to the source's height; pixels are the source's.
  expect([made.width, made.height, made.pixelAspect]).toEqual([size.width + size.height, size.height, '4:3']);
  const [[picture], [before]] = [await lumaOf(made, [4]), await lumaOf(clip, [4])];
  const row = (of: Uint8Array, stride: number): number[] => [
    ...of.subarray(50 * stride, 50 * stride + size.width),
  ];
  expect(row(picture, made.width)).toEqual(row(before, size.width));
});
