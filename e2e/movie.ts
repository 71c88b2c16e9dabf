import { test } from '@playwright/test';
import { defaultFollowOptions, Samples, SampleState, type Point } from '@lurn/core';
import {
  frameBytes,
  indexClip,
  openClip,
  readFrames,
  runTool,
  startFfmpeg,
  type Clip,
  type ClipIndex,
} from '@lurn/media';
import { trackClip } from '@lurn/pipeline';
import { clipPath } from './truth';

/** The first seconds of a clip of the demo, as they are: what a test need not wait for is left off. */
export async function beginning(name: string, seconds: number): Promise<string> {
  const path = test.info().outputPath(`${name}.mp4`);
  await startFfmpeg(['-i', clipPath(name), '-t', `${seconds}`, '-c', 'copy', '-y', path]).done;
  return path;
}

export interface Movie {
  clip: Clip;
  index: ClipIndex;
}

export async function openMovie(path: string): Promise<Movie> {
  const clip = await openClip(path);
  return { clip, index: await indexClip(clip) };
}

/**
 * Follows points of a movie both ways from a frame and tells where each is on every frame. The box covers as
 * much of the scene as the usual one does in a source that is magnified by `zoom`.
 */
export async function trackAgain(
  { clip, index }: Movie,
  starts: Point[],
  from: number,
  zoom: number,
): Promise<Samples[]> {
  const box = Math.round(defaultFollowOptions.template.width * zoom);
  const template = { width: box, height: box };
  const search = { width: box + 60, height: box + 60 };
  const runs = starts.map(({ x, y }) => {
    const samples = new Samples(index.pts.length);
    samples.set(from, { x, y, confidence: 1, rotation: 0, scale: 1, state: SampleState.placed });
    return { samples, from, options: { ...defaultFollowOptions, template, search } };
  });
  await trackClip({ clip, index, runs, direction: 'both', first: 0, last: index.pts.length - 1 });
  return runs.map((run) => run.samples);
}

/**
 * Counts border pixels that are as bare edges are painted: black, and grey in both colours, with whatever
 * the encoder has added. Runs of fewer than eight are taken for dark details of the picture.
 */
export async function barePixels({ clip, index }: Movie): Promise<number> {
  const { width, height } = clip;
  const slot = new Uint8Array(frameBytes(clip, 'luma'));
  let count = 0;
  const run = (length: number, at: (i: number) => number): void => {
    let dark = 0;
    for (let i = 0; i <= length; i++) {
      if (i < length && slot[at(i)] <= 17) dark++;
      else {
        if (dark >= 8) count += dark;
        dark = 0;
      }
    }
  };
  for await (const _ of readFrames(clip, { first: 0, index, planes: 'luma', slot: () => slot })) {
    run(width, (x) => x);
    run(width, (x) => (height - 1) * width + x);
    run(height, (y) => y * width);
    run(height, (y) => y * width + width - 1);
  }
  return count;
}

/** The luma of the first picture of a file, 0 to 255, at a size. */
export async function grayPicture(
  path: string,
  { width, height }: { width: number; height: number },
): Promise<Uint8Array> {
  const tool = startFfmpeg([
    ...['-i', path, '-frames:v', '1'],
    ...['-vf', `format=gbrp,scale=${width}:${height}:flags=area,format=gray`, '-f', 'rawvideo', 'pipe:1'],
  ]);
  const parts: Buffer[] = [];
  for await (const part of tool.process.stdout as AsyncIterable<Buffer>) parts.push(part);
  await tool.done;
  return Buffer.concat(parts);
}

/** Draws a picture of soft colours that layers may show. */
export const drawBoard = (path: string): Promise<string> =>
  runTool('ffmpeg', [
    ...[
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      'gradients=s=320x200:c0=0xe07030:c1=0x205080:c2=0xf0e0c0:n=3:seed=4',
    ],
    ...['-frames:v', '1', '-y', path],
  ]);
