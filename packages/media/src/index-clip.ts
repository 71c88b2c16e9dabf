import { rename, rm } from 'node:fs/promises';
import { framesPerSecond, parsePixelAspect } from '@lurn/core';
import { fieldsApart, isRgb, type Clip } from './clip.js';
import { IndexBuilder, type ClipIndex } from './clip-index.js';
import { DamageWatch } from './damage.js';
import { untrusted } from './guard.js';
import { MediaError } from './media-error.js';
import { runTool, startFfmpeg } from './process.js';

export interface IndexOptions {
  /** Also write the proxy here, in the same pass. */
  proxy?: string;
  /** Told, in a sentence, what of a damaged clip cannot be had. */
  onDamage?: (sentence: string) => void;
  /** Filled on the way, for who wants to know what is there already. */
  builder?: IndexBuilder;
  /** Told the number of frames so far. */
  onProgress?: (frames: number) => void;
  signal?: AbortSignal;
}

/** Light to make, and to step through in either direction. */
export const proxyEncoding = [
  ...['-c:v', 'libx264', '-preset', 'veryfast', '-tune', 'fastdecode', '-crf', '21'],
  ...['-g', '8', '-bf', '0'],
];

const proxyWidth = 960;
const mostFrames = 1e6;
/** A decoder that brings no frame for so long, in milliseconds, hangs. */
const stallAfter = 60_000;

/** The proxy's size: at most 960 wide, even, of the clip's shape. */
export function proxySize(clip: Pick<Clip, 'width' | 'height'>): { width: number; height: number } {
  const scale = Math.min(1, proxyWidth / clip.width);
  const even = (n: number): number => Math.max(2, Math.round((n * scale) / 2) * 2);
  return { width: even(clip.width), height: even(clip.height) };
}

/** The viewer takes every proxy for BT.709 of limited range; what says of itself that it is not is made so. */
function proxyColour({ pixelFormat, colour: { space, range } }: Clip): string {
  const matrix = isRgb(pixelFormat) || (space !== null && space !== 'bt709');
  return `${matrix ? ':out_color_matrix=bt709' : ''}${matrix || range === 'pc' ? ':out_range=tv' : ''}`;
}

/** The proxy's clock: whole frames a second, so that frame N stands at N/rate exactly. */
export const proxyRate = (clip: Pick<Clip, 'frameRate'>): number =>
  Math.max(1, Math.round(framesPerSecond(clip.frameRate)));

/** A movie that keeps each frame once, on the proxy's clock and light to step through. */
export const proxyMovie = (rate: number, path: string): string[] => [
  ...['-fps_mode', 'passthrough', '-enc_time_base', `1/${rate}`, '-video_track_timescale', `${rate}`],
  ...proxyEncoding,
  ...['-movflags', '+faststart', '-f', 'mp4', '-y', path],
];

/**
 * Decodes the clip once: lists every frame and, if asked, writes the proxy, whose frame i is the clip's
 * frame i. Throws a MediaError when the proxy's count differs or nothing could be decoded.
 */
export async function indexClip(clip: Clip, options: IndexOptions = {}): Promise<ClipIndex> {
  const builder = options.builder ?? new IndexBuilder();
  const damage = new DamageWatch();
  const partial = options.proxy && `${options.proxy}.partial`;
  const rate = proxyRate(clip);
  const { width, height } = proxySize(clip);
  const shown = [...fieldsApart(clip), 'showinfo=checksum=0'].join(',');
  const input = ['-copyts', ...untrusted(clip.path), '-map', '0:V:0', '-an', '-sn', '-dn'];
  // Flags that keep each frame once.
  const output = partial
    ? [
        '-vf',
        `${shown},settb=1/${rate},setpts=N,scale=${width}:${height}:flags=area${proxyColour(clip)},format=yuv420p`,
        ...proxyMovie(rate, partial),
      ]
    : ['-vf', shown, '-fps_mode', 'passthrough', '-f', 'null', '-'];
  const tool = startFfmpeg([...input, ...output], {
    signal: options.signal,
    stallAfter,
    onLine: (line) => {
      if (!builder.take(line)) return damage.take(line);
      options.onProgress?.(builder.frames);
      if (builder.frames > mostFrames) tool.process.kill('SIGKILL');
    },
  });
  try {
    tool.process.stdout.resume();
    await tool.done.catch((error: unknown) => {
      if (builder.frames <= mostFrames) throw error;
      throw new MediaError(`"${clip.name}" has more than ${mostFrames} frames, more than can be worked on.`);
    });
    if (builder.frames === 0) throw new MediaError(`Not one frame of "${clip.name}" could be decoded.`);
    if (options.proxy && partial) {
      await checkCount(partial, builder.frames);
      await rename(partial, options.proxy);
    }
  } catch (error) {
    if (partial) await rm(partial, { force: true });
    throw error;
  }
  const index = builder.build();
  const sentence = damage.sentence(clip, index);
  if (sentence) options.onDamage?.(sentence);
  return index;
}

async function checkCount(proxy: string, frames: number): Promise<void> {
  const text = await runTool('ffprobe', [
    ...['-v', 'error', '-select_streams', 'v:0', '-count_packets'],
    ...['-show_entries', 'stream=nb_read_packets', '-of', 'csv=p=0', proxy],
  ]);
  if (Number.parseInt(text, 10) !== frames) {
    throw new MediaError(`The proxy has ${text.trim()} frames where the clip has ${frames}.`);
  }
}

/** Writes one frame of a proxy as a small JPEG, with square pixels. */
export async function makePoster(
  proxy: string,
  seconds: number,
  target: string,
  pixelAspect = '1:1',
): Promise<void> {
  const height = `2*round(240*ih/iw/${parsePixelAspect(pixelAspect)})`;
  await runTool('ffmpeg', [
    ...['-v', 'error', '-ss', `${seconds}`, '-i', proxy, '-frames:v', '1', '-vf', `scale=480:${height}`],
    ...['-q:v', '3', '-y', target],
  ]);
}
