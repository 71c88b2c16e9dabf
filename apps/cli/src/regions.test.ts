import { once } from 'node:events';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { apply, invert, type Point } from '@lurn/core';
import { readTracksJson } from '@lurn/model';
import { board, cornersAt, filmSize, FlatFilm, thingInPicture } from '@lurn/core/testing';
import { openClip, readFrames, startFfmpeg } from '@lurn/media';
import { parseHoldOut, parseQuad, parseRegion } from './arguments.js';
import { lurn } from './testing/lurn.js';

// A board that turns away in a generated film, followed, held and dressed by command line; measured against what it did.

const frames = 18;
const hardship = { frames, period: 72, yaw: 0.5, grain: 1.5, blur: 1.6 };
const { width, height } = filmSize;
let folder: string;
let clip: string;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-regions-'));
  clip = join(folder, 'board.mkv');
  const film = new FlatFilm(board, hardship);
  const { process, done } = startFfmpeg([
    ...['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${width}x${height}`, '-framerate', '25', '-i', 'pipe:0'],
    ...['-pix_fmt', 'yuv420p', '-color_range', 'tv', '-c:v', 'ffv1', '-y', clip],
  ]);
  for (let k = 0; k < frames; k++)
    if (!process.stdin.write(film.shoot(k).data)) await once(process.stdin, 'drain');
  process.stdin.end();
  await done;
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const truth = (frame: number): Point[] => cornersAt(board, hardship, frame);
const listed = (corners: readonly Point[]): string =>
  corners.map(({ x, y }) => `${x.toFixed(3)},${y.toFixed(3)}`).join(';');
const region = (name = 'board'): string => `${name}=${listed(truth(0))}@0`;

interface RegionFile {
  tracks: {
    kind: string;
    region: { quad: Point[] };
    samples: {
      frame: number;
      state: string;
      corners: number[];
      frameFromKey: number[];
      confidence: number;
    }[];
  }[];
}

async function followed(path: string, ...args: string[]): Promise<RegionFile['tracks'][number]> {
  const out = join(folder, 'tracks.json');
  const { code, err } = await lurn('track', path, ...args, '--shape', 'perspective', '--out', out);
  expect([code, err.includes('lost')]).toEqual([0, false]);
  const file = JSON.parse(await readFile(out, 'utf8')) as RegionFile;
  return file.tracks[0];
}

const apart = (corners: readonly number[], wanted: readonly Point[]): number =>
  Math.sqrt(
    wanted.reduce((sum, { x, y }, i) => sum + (corners[2 * i] - x) ** 2 + (corners[2 * i + 1] - y) ** 2, 0) /
      4,
  );

test('a region is followed both ways; its file tells matrix and corners, and is read again', async () => {
  // Drawn on the last frame, its quad laid on the first.
  const drawn = `board=${listed(truth(frames - 1))}@${frames - 1}`;
  const track = await followed(clip, '--region', drawn, '--quad', `board=${listed(truth(0))}@0`);
  expect(track.kind).toBe('region');
  for (const { frame, corners } of track.samples) expect(apart(corners, truth(frame))).toBeLessThan(0.3);
  const { frameFromKey } = track.samples[frames - 1];
  [1, 0, 0, 0, 1, 0, 0, 0, 1].forEach((value, i) => expect(frameFromKey[i]).toBeCloseTo(value, 6));
  const again = readTracksJson(await readFile(join(folder, 'tracks.json'), 'utf8'), { ...filmSize, frames });
  expect(again[0].region?.quad).toHaveLength(4);
  const last = again[0].samples.cornersAt(0).flatMap(({ x, y }) => [x, y]);
  expect(apart(last, truth(0))).toBeLessThan(0.3);
});

test('held in perspective the board stands still in the movie that is written', async () => {
  const held = join(folder, 'held.mkv');
  const { code, err } = await lurn(
    ...(['steady', clip, '--region', region(), '--shape', 'perspective', '--model', 'perspective'] as const),
    ...(['--zoom', 'none', '--codec', 'ffv1', '--out', held] as const),
  );
  expect([code, err.includes('lost')]).toEqual([0, false]);
  const track = await followed(held, '--region', region());
  const moved = track.samples.map(({ corners }) => apart(corners, truth(0)));
  const rms = Math.sqrt(moved.reduce((sum, d) => sum + d * d, 0) / moved.length);
  expect(rms).toBeLessThan(0.35);
});

test('a recipe has it followed anew, what holds it out first, and a picture laid into its quad', async () => {
  const path = join(folder, 'recipe.json');
  const out = join(folder, 'dressed.mkv');
  const knots = (corners: readonly Point[]) => ({ knots: corners.map(({ x, y }) => ({ x, y })) });
  const view = (name: string, of: object) => ({
    ...{ name, kind: 'region', used: false, shape: 'perspective', region: of },
    ...{ template: { width: 41, height: 41 }, search: { width: 161, height: 161 } },
    ...{ channel: 'luma', filter: 'none', fields: 'both', below: 'mark', threshold: 0.5, longestGap: 25 },
  });
  const [a, b, c, d] = truth(0);
  const inner = [a, b, c, d].map(({ x, y }) => ({ x: 960 + 0.4 * (x - 960), y: 540 + 0.4 * (y - 540) }));
  const outlines = [{ frame: 0, splines: [knots([a, b, c, d])] }];
  const holdOuts = [{ frame: 0, spline: knots(inner), trackId: 'inner' }];
  const middle = (corners: readonly Point[]) => ({
    x: (Math.min(...corners.map((p) => p.x)) + Math.max(...corners.map((p) => p.x))) / 2,
    y: (Math.min(...corners.map((p) => p.y)) + Math.max(...corners.map((p) => p.y))) / 2,
  });
  const key = (corners: readonly Point[]) => ({
    keys: [{ frame: 0, ...middle(corners), rotation: 0, scale: 1 }],
  });
  const recipe = {
    ...{ format: 'lurn-recipe', version: 1, clip: { name: 'board', width, height, frames } },
    records: [
      {
        kind: 'track',
        id: 'board',
        view: view('Board', { frame: 0, outlines, holdOuts, quad: [a, b, c, d] }),
      },
      {
        kind: 'track',
        id: 'inner',
        view: view('Inner', { frame: 0, outlines: [{ frame: 0, splines: [knots(inner)] }] }),
      },
      {
        ...{ kind: 'layer', id: 'plain' },
        view: {
          name: 'Plain',
          carrier: { kind: 'tracks', trackIds: ['board'], model: 'perspective' },
          content: { kind: 'cover', how: 'plain', colour: [1, 1, 1] },
          shape: { parts: [{ spline: knots([a, b, c, d]) }] },
        },
      },
    ],
    samples: { board: key([a, b, c, d]), inner: key(inner) },
  };
  // White where the board is: the area of it tells where its edges are, to a fraction of a pixel.
  const white = (corners: readonly Point[]): number =>
    Math.abs(
      corners.reduce((sum, p, i) => sum + p.x * corners[(i + 1) % 4].y - corners[(i + 1) % 4].x * p.y, 0) / 2,
    );
  const expectWhiteBoard = async (of: object): Promise<void> => {
    await writeFile(path, JSON.stringify(of));
    const { code } = await lurn('dress', clip, '--recipe', path, '--codec', 'ffv1', '--out', out);
    expect(code).toBe(0);
    const dressed = await openClip(out);
    let frame = 0;
    for await (const { data } of readFrames(dressed, {
      first: 0,
      planes: 'luma',
      slot: () => new Uint8Array(width * height),
    })) {
      let sum = 0;
      for (const level of data) if (level > 225) sum++;
      const around = 2 * (board.width + board.height);
      expect(Math.abs(sum - white(truth(frame))) / around).toBeLessThan(0.5);
      frame++;
    }
    expect(frame).toBe(frames);
  };
  await expectWhiteBoard(recipe);
  // Outlines may be what rides alone.
  const { carrier, shape, ...layer } = recipe.records[2].view as { carrier: object; shape: object };
  const riding = { kind: 'layer', id: 'plain', view: { ...layer, shape: { ...shape, carrier } } };
  await expectWhiteBoard({ ...recipe, records: [...recipe.records.slice(0, 2), riding] });
  const turned = {
    ...recipe,
    records: recipe.records.map((one, i) =>
      i === 1
        ? {
            ...one,
            view: view('Inner', {
              frame: 0,
              outlines: [{ frame: 0, splines: [knots(inner)] }],
              holdOuts: [{ frame: 0, spline: knots(inner), trackId: 'board' }],
            }),
          }
        : one,
    ),
  };
  await writeFile(path, JSON.stringify(turned));
  const refused = await lurn('dress', clip, '--recipe', path, '--codec', 'ffv1', '--out', out);
  expect([refused.code, refused.err.includes('waits for it in turn')]).toEqual([2, true]);
});

describe('what is written wrongly is said with how it is written', () => {
  test.each<[(text: string) => unknown, string]>([
    [parseRegion, '400,300;900,310@0'],
    [parseRegion, 'board=400,300;900,310@0'],
    [parseRegion, 'board=400,300;900,;10,10@0'],
    [parseHoldOut, '1,2;3,4@5'],
    [parseQuad, 'board=1,1;2,1;2,2@0'],
  ])('%p %s', (parse, text) => {
    expect(() => parse(text)).toThrow(`"${text}" is no`);
  });

  test.each<[string[], string]>([
    [
      ['--region', 'board=10,10;90,12;400,14@0'],
      'Region "board" is a line: draw its outline about the thing, loosely.',
    ],
    [
      ['--region', 'board=10,10;90,10;90,80@77'],
      "Frame 77 is beyond the clip's end; its frames are 0 to 17.",
    ],
    [
      ['--region', 'board=10,10;90,10;90,80@0', '--hold-out', '1,1;9,1;9,9@0=crane'],
      'There is no track "crane" for a hold-out to ride on.',
    ],
    [['--region', 'wall=-90,10;-20,10;-20,70@0'], 'Region "wall" lies outside the picture.'],
  ])('%p', async (args, sentence) => {
    const { code, err } = await lurn('track', clip, ...args, '--out', join(folder, 'none.json'));
    expect([code > 0, err]).toEqual([true, expect.stringContaining(sentence)]);
  });
});

describe('a repair that is carried by a region', () => {
  const middle = { x: 250, y: 180 };
  const radius = 26;

  /** A recipe with strokes on the board, by places of its first frame. */
  const recipeOf = (strokes: object[]) => ({
    ...{ format: 'lurn-recipe', version: 1, clip: { name: 'board', width, height, frames } },
    records: [
      {
        ...{ kind: 'track', id: 'board' },
        view: {
          ...{
            name: 'Board',
            kind: 'region',
            used: false,
            shape: 'perspective',
            below: 'mark',
            threshold: 0.5,
          },
          ...{ template: { width: 41, height: 41 }, search: { width: 161, height: 161 } },
          ...{ channel: 'luma', filter: 'none', fields: 'both', longestGap: 25 },
          region: {
            ...{ frame: 0, holdOuts: [], quad: truth(0) },
            outlines: [{ frame: 0, splines: [{ knots: truth(0) }] }],
          },
        },
      },
      {
        ...{ kind: 'layer', id: 'repair' },
        view: {
          name: 'Repair',
          carrier: { kind: 'tracks', trackIds: ['board'], model: 'perspective' },
          content: { kind: 'repair', strokes, follow: false },
        },
      },
    ],
    samples: {
      board: { keys: [{ frame: 0, ...centreOf(truth(0)), rotation: 0, scale: 1 }] },
    },
  });

  const centreOf = (corners: readonly Point[]): Point => ({
    x: (Math.min(...corners.map((p) => p.x)) + Math.max(...corners.map((p) => p.x))) / 2,
    y: (Math.min(...corners.map((p) => p.y)) + Math.max(...corners.map((p) => p.y))) / 2,
  });

  async function lumaOf(path: string): Promise<Uint8Array[]> {
    const found: Uint8Array[] = [];
    const slot = (): Uint8Array => new Uint8Array(width * height);
    for await (const { data } of readFrames(await openClip(path), { first: 0, planes: 'luma', slot }))
      found.push(data);
    return found;
  }

  async function dressed(strokes: object[]): Promise<Uint8Array[]> {
    const [path, out] = [join(folder, 'repair.json'), join(folder, 'repaired.mkv')];
    await writeFile(path, JSON.stringify(recipeOf(strokes)));
    const { code } = await lurn('dress', clip, '--recipe', path, '--codec', 'ffv1', '--out', out);
    expect(code).toBe(0);
    return lumaOf(out);
  }

  test('unpainted gives the source back bit for bit; what is painted rides with the board, and nothing else changes', async () => {
    const source = await lumaOf(clip);
    const there = thingInPicture(board, hardship, 0);
    const at = apply(there, middle.x, middle.y);
    const dab = {
      how: 'colour',
      points: [at.x, at.y, 1],
      width: 2 * radius,
      soft: 0,
      colour: [1, 1, 1],
      first: 4,
    };
    const made = await dressed([dab]);
    let squares = 0;
    // Nothing is painted on the first frames.
    for (let k = 0; k < 4; k++) expect(Buffer.compare(made[k], source[k])).toBe(0);
    made.slice(4).forEach((picture, i) => {
      const frame = i + 4;
      const painted = { x: 0, y: 0, weight: 0 };
      const wanted = { x: 0, y: 0, weight: 0 };
      const matrix = thingInPicture(board, hardship, frame);
      const middleNow = apply(matrix, middle.x, middle.y);
      for (let y = Math.floor(middleNow.y) - 60; y < middleNow.y + 60; y++)
        for (let x = Math.floor(middleNow.x) - 60; x < middleNow.x + 60; x++) {
          // As far as a pixel went from what was there to white.
          const share =
            (picture[y * width + x] - source[frame][y * width + x]) / (235 - source[frame][y * width + x]);
          painted.x += share * (x + 0.5);
          painted.y += share * (y + 0.5);
          painted.weight += share;
          // Where the truth has that pixel on the first frame, where the dab is round.
          const back = apply(
            there,
            ...(Object.values(apply(invert(matrix), x + 0.5, y + 0.5)) as [number, number]),
          );
          const inside = Math.min(Math.max(radius + 0.5 - Math.hypot(back.x - at.x, back.y - at.y), 0), 1);
          wanted.x += inside * (x + 0.5);
          wanted.y += inside * (y + 0.5);
          wanted.weight += inside;
        }
      squares +=
        (painted.x / painted.weight - wanted.x / wanted.weight) ** 2 +
        (painted.y / painted.weight - wanted.y / wanted.weight) ** 2;
      // Beyond the dab no level is another.
      for (let y = 0; y < height; y++) {
        const near = Math.abs(y - middleNow.y) < 2 * radius ? 2 * radius : 0;
        const [left, right] = [Math.round(middleNow.x) - near, Math.round(middleNow.x) + near];
        for (const [from, to] of [
          [0, left],
          [right, width],
        ]) {
          const row = (of: Uint8Array): Uint8Array => of.subarray(y * width + from, y * width + to);
          if (Buffer.compare(row(picture), row(source[frame])) !== 0) expect([frame, y]).toBeNull();
        }
      }
    });
    expect(Math.sqrt(squares / (frames - 4))).toBeLessThan(0.3);
  });
});
