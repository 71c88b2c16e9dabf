import { availableParallelism } from 'node:os';
import { pictureBytes, type Bits, type YuvFormat } from '@lurn/core';
import { planarName } from './codecs.js';
import { alphaDecoder, conversion, fieldsApart, readFormat, workingFormat, type Clip } from './clip.js';
import {
  frameTime,
  type IndexBuilder,
  keyAtOrBefore,
  parseShownFrame,
  type ClipIndex,
  type ShownFrame,
} from './clip-index.js';
import { FramePipe } from './frame-pipe.js';
import { untrusted } from './guard.js';
import { MediaError } from './media-error.js';
import { startFfmpeg, type RunningTool } from './process.js';

export type ReadPlanes = 'luma' | 'all' | 'exported' | 'rgba';

export interface ReadOptions {
  first: number;
  /** Last frame wanted; to the end of the clip when left out. */
  last?: number;
  /** The luma plane alone or all three planes in eight bits, all three as they are exported, or red, green, blue and alpha. */
  planes: ReadPlanes;
  /** Bits a level of what is exported; eight when left out. */
  bits?: Bits;
  /** Gives the buffer for the next frame; waiting here holds the decoder back. */
  slot: () => Uint8Array | Promise<Uint8Array>;
  /** Needed to start anywhere but at frame 0, and then for checking every timestamp. */
  index?: ClipIndex;
  /** Of what is exported: read as pictures of another clip are, whose subsampling, siting and range it takes. */
  as?: Pick<YuvFormat, 'subsampling' | 'siting' | 'range'>;
  /** Of red, green, blue and alpha: how large. */
  size?: { width: number; height: number };
  /** Filled on the way when reading from frame 0. */
  builder?: IndexBuilder;
  signal?: AbortSignal;
}

export interface ReadFrame {
  frame: number;
  data: Uint8Array;
}

export const frameBytes = (clip: Clip, planes: ReadPlanes, bits: Bits = 8): number =>
  planes === 'rgba'
    ? 4 * clip.width * clip.height
    : planes === 'luma'
      ? clip.width * clip.height
      : pictureBytes({ ...clip, bits: planes === 'all' ? 8 : bits });

/**
 * Reads frames in order, each exactly the one named. With an index the decoder starts at a key frame, and
 * the first timestamp that comes out is checked: where the container led it astray it starts one key frame
 * earlier, and at last from the beginning.
 */
export async function* readFrames(clip: Clip, options: ReadOptions): AsyncGenerator<ReadFrame> {
  const { first, index } = options;
  if (first > 0 && !index) throw new Error('Reading from the middle of a clip needs its index.');
  // A field is filled up from its neighbours: the picture before must have been decoded, too.
  const wanted = clip.asFields ? Math.max(0, first - 2) : first;
  let from = index && first > 0 ? keyAtOrBefore(index, wanted) : 0;
  for (;;) {
    const pipe = await FramePipe.make(options.planes !== 'rgba');
    const tool = start(clip, options, from, pipe);
    let delivered = false;
    try {
      for await (const frame of deliver(clip, options, tool, pipe)) {
        delivered = true;
        yield frame;
      }
      return;
    } catch (error) {
      if (!(error instanceof WrongStart) || delivered || from === 0) throw error;
      from = from - 1 > 0 && index && keyAtOrBefore(index, from - 1) > 0 ? keyAtOrBefore(index, from - 1) : 0;
    } finally {
      tool.stop();
      await Promise.all([pipe.close(), tool.done.catch(() => undefined)]);
    }
  }
}

/**
 * More frames in the works than there are cores, so that none idles while a frame goes through the pipe: an
 * eighth faster than ffmpeg's own choice. A short read would only wait for them all.
 */
const decoderThreads = Math.min(Math.max(8, availableParallelism() + 1), 16);
/** Every thread holds pictures: of large ones only as many threads as keep the cores busy. */
const largePicture = 4e6;
const threadsFor = ({ width, height }: Clip): number =>
  width * height > largePicture ? Math.min(decoderThreads, availableParallelism() + 1) : decoderThreads;
const shortRead = 16;

/** The decoder came out somewhere else than asked. */
class WrongStart extends Error {}

interface Decoder extends RunningTool {
  nextShown: () => Promise<ShownFrame | null>;
  stop: () => void;
}

function start(clip: Clip, options: ReadOptions, from: number, pipe: FramePipe): Decoder {
  const { first, last, index, planes, builder, bits = 8, size = clip } = options;
  const seek = index && from > 0;
  const time = index && from > 0 ? frameTime(index, from) + 1e-4 : 0;
  const select = seek
    ? [`select=gte(pts\\,${index.pts[first]})`]
    : first > 0
      ? [`select=gte(n\\,${first})`]
      : [];
  const { as } = options;
  const own = planes === 'exported' ? readFormat(clip, bits) : workingFormat(clip);
  const isRgba = planes === 'rgba';
  const format = isRgba ? 'rgba' : as ? planarName({ ...as, bits }) : own;
  const filters = [
    ...fieldsApart(clip),
    ...select,
    'showinfo=checksum=0',
    ...(isRgba
      ? [`scale=${size.width}:${size.height}:flags=area+accurate_rnd+full_chroma_int`]
      : conversion(clip, planes !== 'exported')),
    ...(as
      ? [`scale=out_range=${as.range === 'full' ? 'pc' : 'tv'}:flags=accurate_rnd+full_chroma_int`]
      : []),
    `format=${format}`,
  ];
  if (planes === 'luma') filters.push('extractplanes=y');
  const shown: ShownFrame[] = [];
  let waiting: ((frame: ShownFrame | null) => void) | null = null;
  let ended = false;
  const give = (frame: ShownFrame | null): void => {
    if (waiting) {
      const resolve = waiting;
      waiting = null;
      resolve(frame);
    } else if (frame) shown.push(frame);
  };
  const long = last === undefined || last - first >= shortRead;
  const tool = startFfmpeg(
    [
      ...(long ? ['-threads', `${threadsFor(clip)}`] : []),
      ...(seek ? ['-seek_timestamp', '1', '-ss', time.toFixed(6), '-noaccurate_seek'] : []),
      ...(isRgba ? alphaDecoder(clip) : []),
      ...['-copyts', ...untrusted(clip.path), '-map', '0:V:0', '-vf', filters.join(',')],
      ...['-fps_mode', 'passthrough', ...(last === undefined ? [] : ['-frames:v', `${last - first + 1}`])],
      // More than eight bits a level are an extension of the format, hence -strict.
      ...(isRgba ? ['-f', 'rawvideo'] : ['-f', 'yuv4mpegpipe', '-strict', '-1']),
      ...['-y', pipe.path],
    ],
    {
      signal: options.signal,
      onLine: (line) => {
        builder?.take(line);
        const frame = parseShownFrame(line);
        if (frame) give(frame);
      },
    },
  );
  const end = (): void => {
    ended = true;
    give(null);
  };
  const writerEnded = (): void => pipe.writerEnded();
  tool.process.stdout.resume();
  tool.process.stderr.on('end', end);
  tool.process.on('error', end);
  tool.process.on('error', writerEnded);
  tool.process.on('exit', writerEnded);
  return {
    ...tool,
    nextShown: () =>
      shown.length > 0 || ended
        ? Promise.resolve(shown.shift() ?? null)
        : new Promise((resolve) => (waiting = resolve)),
    stop: () => void tool.process.kill('SIGKILL'),
  };
}

async function* deliver(
  clip: Clip,
  options: ReadOptions,
  decoder: Decoder,
  pipe: FramePipe,
): AsyncGenerator<ReadFrame> {
  const { first, last, index } = options;
  const like = options.as ? { ...clip, subsampling: options.as.subsampling } : clip;
  const bytes = frameBytes({ ...like, ...options.size }, options.planes, options.bits);
  let frame = first;
  let filled: number | null;
  for (;;) {
    const data = await options.slot();
    filled = await pipe.fill(data.subarray(0, bytes));
    if (filled === null || filled < bytes) break;
    const shown = await decoder.nextShown();
    if (index && shown && shown.pts !== index.pts[frame]) {
      if (frame === first) throw new WrongStart();
      throw new MediaError(`"${clip.name}" changed since it was read: frame ${frame} is not where it was.`);
    }
    yield { frame, data };
    frame++;
    if (last !== undefined && frame > last) return;
  }
  await decoder.done;
  if (filled !== null) throw new MediaError(`"${clip.name}" broke off inside frame ${frame}.`);
  if (frame === first && index && first > 0) throw new WrongStart();
  if (last !== undefined && frame <= last) {
    throw new MediaError(`"${clip.name}" ends at frame ${frame - 1}; frame ${last} was asked for.`);
  }
}
