import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { carryLayers, completeLayer, type ClipContent, type Layer } from '@lurn/core';
import {
  encodingFor,
  frameTimes,
  indexClip,
  openClip,
  readFrames,
  type Clip,
  type ClipIndex,
} from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { exportMovie } from './export-movie.js';

const [frames, width, height] = [12, 192, 112];
let folder: string;
let clip: Clip;
let index: ClipIndex;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-film-'));
  const path = join(folder, 'moving.mp4');
  await makeStripClip({ path, frames, width, height, position: (k) => ({ x: 5 * k, y: 0 }) });
  clip = await openClip(path);
  index = await indexClip(clip);
});
afterAll(() => rm(folder, { recursive: true, force: true }));

async function lumaOf(of: Clip): Promise<Uint8Array[]> {
  const pictures: Uint8Array[] = [];
  const slot = (): Uint8Array => new Uint8Array(width * height);
  for await (const { data } of readFrames(of, { first: 0, planes: 'luma', slot })) pictures.push(data);
  return pictures;
}

const differs = (a: Uint8Array, b: Uint8Array): number =>
  a.reduce((sum, level, i) => sum + Math.abs(level - b[i]), 0) / a.length;

// A film over all of the picture: each frame is to be that which the film is at.
test.each([
  [{ from: 5, play: 'loop' }, [0, 1, 5, 6, 7, 8, 9, 10, 11, 5, 6, 7]],
  [{ from: 8, play: 'hold' }, [0, 1, 8, 9, 10, 11, 11, 11, 11, 11, 11, 11]],
  [{ from: 3, play: 'still' }, [0, 1, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3]],
] as const)('a clip is shown in its own time: %j', async (part, expected) => {
  const content: ClipContent = {
    ...{ kind: 'clip', clip: 'film', ...part },
    quad: [0, 0, width, 0, width, height, 0, height],
  };
  const times = frameTimes(index, clip);
  const layers = carryLayers(
    [
      completeLayer({
        id: '',
        name: 'Film',
        content,
        first: 2,
        last: frames - 1,
        frame: 2,
      } as unknown as Layer),
    ],
    { clip: { width, height, pixelAspect: '1:1', times }, tracks: new Map(), scene: null },
    new Map([['film', times]]),
  );
  const path = join(folder, `${part.play}.mkv`);
  await exportMovie({
    ...{ clip, index, first: 0, last: frames - 1, path },
    encoding: encodingFor({ codec: 'ffv1', container: 'mkv' }, clip, false),
    steps: [{ kind: 'dress', layers, pictures: new Map(), films: new Map([['film', { clip, index }]]) }],
  });
  const [source, made] = [await lumaOf(clip), await lumaOf(await openClip(path))];
  const nearest = made.map((picture) => {
    const off = source.map((other) => differs(picture, other));
    return off.indexOf(Math.min(...off));
  });
  expect(nearest).toEqual(expected);
  // Through red, green and blue and back: a level or two.
  made.forEach((picture, k) => expect(differs(picture, source[expected[k]])).toBeLessThan(1.5));
});
