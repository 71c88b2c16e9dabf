import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { apply, type Mat3 } from '@lurn/core';
import { openClip, readFrames, runTool } from '@lurn/media';
import { lurn } from './testing/lurn.js';

// Layers on the demo's films, measured on the pixels of the exported movie against what really moved.

const [width, height] = [1920, 1080];
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-dress-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const demo = (file: string): string => fileURLToPath(new URL(`../../../demo/clips/${file}`, import.meta.url));

interface Truth {
  layers: { name: string; frameFromLayer: Mat3[] }[];
  outlines: { name: string; points: [number, number][] }[];
}
const truthOf = async (name: string): Promise<Truth> =>
  JSON.parse(await readFile(demo(`${name}.truth.json`), 'utf8')) as Truth;

/** A stretch of a clip of the demo, without loss: the first frame of it is its frame 0. */
async function stretch(name: string, first: number, count: number): Promise<string> {
  const path = join(folder, `${name}.mkv`);
  const cut = `trim=start_frame=${first}:end_frame=${first + count},setpts=PTS-STARTPTS`;
  await runTool('ffmpeg', [
    '-v',
    'error',
    '-i',
    demo(`${name}.mp4`),
    '-vf',
    cut,
    '-an',
    '-c:v',
    'ffv1',
    '-y',
    path,
  ]);
  return path;
}

const box = (size: number) => ({ width: size, height: size });
const track = (name: string, shape: string, template: number) => ({
  ...{ name, used: false, template: box(template), search: box(2 * template), shape },
  ...{ channel: 'luma', filter: 'none', fields: 'both', below: 'stop', threshold: 0.5, longestGap: 25 },
  offsets: [],
});
const outline = (...points: [number, number][]) => ({
  parts: [{ spline: { knots: points.map(([x, y]) => ({ x, y })) } }],
});

async function dress(
  clip: string,
  frames: number,
  tracks: Record<string, { view: object; at: { x: number; y: number } }>,
  layers: object[],
): Promise<string> {
  const path = join(folder, 'recipe.json');
  const out = join(folder, 'dressed.mkv');
  const recipe = {
    ...{ format: 'lurn-recipe', version: 1, clip: { name: 'film', width, height, frames } },
    records: [
      ...Object.entries(tracks).map(([id, { view }]) => ({ kind: 'track', id, view })),
      ...layers.map((view, i) => ({ kind: 'layer', id: `layer ${i}`, view })),
    ],
    samples: Object.fromEntries(
      Object.entries(tracks).map(([id, { at }]) => [
        id,
        { keys: [{ frame: 0, ...at, rotation: 0, scale: 1 }] },
      ]),
    ),
  };
  await writeFile(path, JSON.stringify(recipe));
  const { code, err } = await lurn('dress', clip, '--recipe', path, '--codec', 'ffv1', '--out', out);
  expect([code, code === 0 ? '' : err]).toEqual([0, '']);
  return out;
}

/** Goes through the pictures of a movie. */
async function each(path: string, look: (frame: number, planes: Uint8Array) => void): Promise<void> {
  const slot = new Uint8Array((width * height * 3) / 2);
  for await (const { frame, data } of readFrames(await openClip(path), {
    ...{ first: 0, planes: 'all' },
    slot: () => slot,
  }))
    look(frame, data);
}

test('a picture pinned by four points rides where the sign really goes; colours change inside their shape only', async () => {
  const frames = 16;
  const clip = await stretch('quay', 0, frames);
  const crane = (await truthOf('quay')).layers.find(({ name }) => name === 'crane')?.frameFromLayer ?? [];
  // The driver's board, and the four marks on it, pixels of what it is painted on.
  const board = [
    [1216, 560],
    [1304, 560],
    [1304, 624],
    [1216, 624],
  ];
  const marks = [
    [1241, 579],
    [1282, 579],
    [1282, 605],
    [1240, 605],
  ];
  const at = ([x, y]: number[], frame: number) => apply(crane[frame], x, y);
  const tracks = Object.fromEntries(
    marks.map((mark, i) => [`${i}`, { view: track(`mark ${i}`, 'shift', 37), at: at(mark, 0) }]),
  );
  // Four white discs on black, a fifth of the way in.
  const [w, h] = [352, 256];
  const discs = [
    [0.2, 0.25],
    [0.8, 0.25],
    [0.8, 0.75],
    [0.2, 0.75],
  ];
  const near = discs.map(([u, v]) => `lt(hypot(X+0.5-${u * w},Y+0.5-${v * h}),18)`).join('+');
  const sign = `color=black:s=${w}x${h}:d=1:r=1,format=rgb24,geq=r='255*(${near})':g='255*(${near})':b='255*(${near})'`;
  await runTool('ffmpeg', [
    ...['-v', 'error', '-f', 'lavfi', '-i', sign, '-frames:v', '1', '-y', join(folder, 'sign.png')],
  ]);
  const quad = board.flatMap((corner) => [at(corner, 0).x, at(corner, 0).y]);
  const carrier = { kind: 'tracks', trackIds: ['0', '1', '2', '3'], model: 'perspective' };
  const crate = outline([1640, 640], [1780, 640], [1780, 780], [1640, 780]);
  const out = await dress(clip, frames, tracks, [
    { name: 'Sign', content: { kind: 'picture', asset: 'sign.png', quad }, carrier },
    { name: 'Crate', content: { kind: 'colour', hue: 1.5, saturation: 1.4 }, shape: crate },
  ]);
  const off: number[] = [];
  const source: Uint8Array[] = [];
  await each(clip, (_, data) => source.push(data.slice()));
  await each(out, (frame, data) => {
    for (const [u, v] of discs) {
      const place = at([1216 + 88 * u, 560 + 64 * v], frame);
      // The middle of what is light about where it should be.
      let [sum, x, y] = [0, 0, 0];
      for (let j = Math.round(place.y) - 11; j < Math.round(place.y) + 11; j++)
        for (let i = Math.round(place.x) - 11; i < Math.round(place.x) + 11; i++) {
          const light = Math.max(0, data[j * width + i] - 16);
          [sum, x, y] = [sum + light, x + light * (i + 0.5), y + light * (j + 0.5)];
        }
      off.push((x / sum - place.x) ** 2 + (y / sum - place.y) ** 2);
    }
    const beside = (x: number, y: number): boolean =>
      !(x > 1630 && x < 1790 && y > 630 && y < 790) && !(x > 1050 && x < 1300 && y > 480 && y < 700);
    let changed = 0;
    for (let i = 0; i < data.length; i++) {
      if (data[i] === source[frame][i]) continue;
      const plane = i < width * height ? 0 : i < 1.25 * width * height ? 1 : 2;
      const k = i - [0, 1, 1.25][plane] * width * height;
      const [stride, share] = plane === 0 ? [width, 1] : [width / 2, 2];
      changed += Number(beside((k % stride) * share, Math.floor(k / stride) * share));
    }
    expect([frame, changed]).toEqual([frame, 0]);
  });
  const rms = Math.sqrt(off.reduce((sum, v) => sum + v, 0) / off.length);
  console.log(`A picture pinned to the board: ${rms.toFixed(3)} px RMS from truth`);
  expect(rms).toBeLessThan(0.3);
});

test('a cover that rides on a head hides every pixel of its true shape', async () => {
  const [first, frames] = [60, 16];
  const clip = await stretch('lantern', first, frames);
  const { layers, outlines } = await truthOf('lantern');
  const walker = layers.find(({ name }) => name === 'walker')?.frameFromLayer.slice(first) ?? [];
  const head = outlines.find(({ name }) => name === 'head')?.points ?? [];
  const at = (x: number, y: number, frame: number) => apply(walker[frame], x, y);
  // Followed is the face below the hat's brim; about it all a person draws a loose outline.
  const ring = Array.from({ length: 8 }, (_, i) => {
    const [c, s] = [Math.cos((i * Math.PI) / 4), Math.sin((i * Math.PI) / 4)];
    const { x, y } = at(178 + 70 * c, 90 + 70 * s, 0);
    return [x, y] as [number, number];
  });
  const out = await dress(
    clip,
    frames,
    { face: { view: track('face', 'similarity', 61), at: at(182, 96, 0) } },
    [
      {
        ...{
          name: 'Head',
          content: { kind: 'cover', how: 'plain', colour: [1, 1, 1] },
          shape: outline(...ring),
        },
        carrier: { kind: 'tracks', trackIds: ['face'], model: 'similarity' },
      },
    ],
  );
  let seen = 0;
  await each(out, (frame, data) => {
    const shape = head.map(([x, y]) => at(x, y, frame));
    const [xs, ys] = [shape.map(({ x }) => x), shape.map(({ y }) => y)];
    let bare = 0;
    for (let y = Math.floor(Math.min(...ys)); y <= Math.max(...ys); y++)
      for (let x = Math.floor(Math.min(...xs)); x <= Math.max(...xs); x++) {
        const isIn = shape.reduce((inside, a, i) => {
          const b = shape[(i + 1) % shape.length];
          const crosses = a.y > y + 0.5 !== b.y > y + 0.5;
          return crosses && x + 0.5 < a.x + ((y + 0.5 - a.y) * (b.x - a.x)) / (b.y - a.y) ? !inside : inside;
        }, false);
        if (!isIn || x < 0 || x >= width || y < 0) continue;
        seen++;
        bare += Number(data[y * width + x] !== 235);
      }
    expect([frame, bare]).toEqual([frame, 0]);
  });
  expect(seen).toBeGreaterThan(frames * 5000);
});

test.each([
  ['prores_ks', 'yuva444p10le', 'mov'],
  ['libvpx-vp9', 'yuva420p', 'webm'],
])('a clip in %s is laid with its alpha', async (codec, format, ending) => {
  const size = '320x180';
  const film = join(folder, `half.${ending}`);
  const clip = join(folder, 'blue.mkv');
  const half = `color=c=red:s=${size}:d=0.4:r=25,format=rgba,geq=r=255:g=0:b=0:a='255*lt(X,160)'`;
  const made = (source: string, ...how: string[]) =>
    runTool('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', source, ...how]);
  await made(half, '-c:v', codec, '-pix_fmt', format, '-y', film);
  await made(`color=c=blue:s=${size}:d=0.4:r=25`, '-c:v', 'ffv1', '-y', clip);
  const recipe = join(folder, 'alpha.json');
  const view = {
    name: 'Half',
    content: { kind: 'clip', clip: `half.${ending}`, quad: [0, 0, 320, 0, 320, 180, 0, 180] },
  };
  const records = [{ kind: 'layer', id: 'half', view }];
  const of = { name: 'blue', width: 320, height: 180, frames: 10 };
  await writeFile(
    recipe,
    JSON.stringify({ format: 'lurn-recipe', version: 1, clip: of, records, samples: {} }),
  );
  const out = join(folder, 'half-laid.mkv');
  expect((await lurn('dress', clip, '--recipe', recipe, '--codec', 'ffv1', '--out', out)).code).toBe(0);
  const dressed = await openClip(out);
  const slot = () => new Uint8Array(320 * 180);
  for await (const { data } of readFrames(dressed, { first: 0, last: 0, planes: 'luma', slot })) {
    // Red and blue as limited luma, BT.709 or BT.601.
    expect(data[90 * 320 + 80]).toBeGreaterThan(55);
    expect(data[90 * 320 + 240]).toBeLessThan(45);
  }
});
