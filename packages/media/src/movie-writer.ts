import { createRequire } from 'node:module';
import { formatFrameRate, timecodeAfter, type Container, type YuvFormat } from '@lurn/core';
import { frameTime, isVariable, timeSpan, type ClipIndex } from './clip-index.js';
import { pictureFormat, type Clip } from './clip.js';
import {
  carriedSound,
  encodedFormat,
  encodingFor,
  encoderOptions,
  planarName,
  soundEncoding,
  type Encoding,
  workingBits,
} from './codecs.js';
import { untrusted } from './guard.js';
import { startFfmpeg } from './process.js';
import { pictureHead, streamHead } from './timed-pictures.js';

/** A word in the pictures, in white on a dark ground; its place in shares of the picture, its size in one of the height. */
export interface Words {
  text: string;
  x: number;
  y: number;
  size: number;
}

export interface MovieOptions {
  /** Of pictures by themselves a pattern with %d in it, or a folder's. */
  path: string;
  /** The clip whose rate, colour tags and sound the movie takes over. */
  clip: Clip;
  index: ClipIndex;
  /** The exported range, both included. */
  first: number;
  last: number;
  /** The pictures it is fed with. */
  picture: YuvFormat;
  /** A pixel's width over its height, like "16:11". */
  pixelAspect: string;
  encoding: Encoding;
  words?: readonly Words[];
  signal?: AbortSignal;
}

/** A movie of a clip as it is, in what is usual unless another encoding is given. */
export const likeClip = (
  clip: Clip,
  encoding: Encoding = encodingFor({}, clip, false),
): Pick<MovieOptions, 'picture' | 'pixelAspect' | 'encoding'> => ({
  picture: pictureFormat(clip, workingBits(encoding)),
  pixelAspect: clip.pixelAspect,
  encoding,
});

export interface MovieWriter {
  /** Takes one picture in the given format; resolves when its bytes may be used again. */
  write(picture: Uint8Array): Promise<void>;
  /** Resolves when the file is whole. */
  finish(): Promise<void>;
  /** Ends the encoder; resolves when it no longer touches the file. */
  abandon(): Promise<void>;
}

/**
 * Starts a movie that is fed picture by picture and takes the range's sound from the original. It keeps the
 * clip's rate, or, where that varies, each frame's timestamp.
 */
export function startMovie(options: MovieOptions): MovieWriter {
  const { clip, index, path, first, picture, encoding, signal } = options;
  const { container } = encoding;
  const rate = formatFrameRate(clip.frameRate);
  const variable = isVariable(index, clip.frameRate);
  const sound = container === 'png' ? null : soundOptions(options, variable);
  const { width, height, alpha = false } = picture;
  const fed = fedFormat(clip, picture);
  const encoded = encodedFormat(encoding, picture);
  // Eight bits of the full range keep the name that says so.
  const taken = encoded === planarName(picture) ? fed : encoded;
  const tool = startFfmpeg(
    [
      ...['-loglevel', 'warning'],
      ...(variable
        ? ['-f', 'matroska']
        : ['-f', 'rawvideo', '-pix_fmt', fed, '-s', `${width}x${height}`, '-framerate', rate]),
      ...['-i', 'pipe:0'],
      ...(sound ? untrusted(clip.path) : []),
      ...['-map', '0:v:0', '-vf', pictureFilter(options)],
      ...[...encoderOptions(encoding, picture, alpha), '-pix_fmt', taken],
      ...(sound ? ['-map', '1:a', ...sound] : []),
      ...(container === 'png' ? [] : colourOptions(clip)),
      ...(variable ? variableClock(options) : clockOptions(container, clip)),
      ...timecodeOptions(options),
      ...containerOptions(container, path),
    ],
    { signal },
  );
  let failed: Error | null = null;
  tool.done.catch((error: Error) => (failed = error));
  let frame = first;
  const start = frameTime(index, first);
  if (variable) tool.process.stdin.write(streamHead(width, height, fed));
  return {
    write: (picture) =>
      new Promise((resolve, reject) => {
        if (failed) return reject(failed);
        if (variable)
          tool.process.stdin.write(pictureHead(frameTime(index, frame++) - start, picture.byteLength));
        tool.process.stdin.write(picture, (error) => {
          if (!error) resolve();
          else tool.done.then(() => reject(error), reject);
        });
      }),
    finish: () => {
      tool.process.stdin.end();
      return tool.done;
    },
    abandon: () => {
      tool.process.kill('SIGKILL');
      return tool.done.catch(() => undefined);
    },
  };
}

/** Planar pictures as ffmpeg is told of them. */
const fedFormat = (clip: Clip, picture: YuvFormat): string =>
  clip.pixelFormat.startsWith('yuvj') && picture.bits === 8 && !picture.alpha
    ? `yuvj${picture.subsampling}p`
    : planarName(picture);

const muxers: Record<Container, string> = {
  mp4: 'mp4',
  mov: 'mov',
  webm: 'webm',
  mkv: 'matroska',
  png: 'image2',
};

const containerOptions = (container: Container, path: string): string[] => [
  ...(container === 'mp4' || container === 'mov' ? ['-movflags', '+faststart'] : []),
  ...(container === 'png' ? ['-start_number', '0'] : []),
  ...['-f', muxers[container], '-y', path],
];

/** The clip's own timecode, counted on to the first frame that is written. Fields taken for frames have none. */
function timecodeOptions({ clip, first, encoding: { container } }: MovieOptions): string[] {
  const start = clip.timecode && !clip.asFields ? timecodeAfter(clip.timecode, first, clip.frameRate) : null;
  if (start === null) return [];
  if (container === 'mp4' || container === 'mov') return ['-timecode', start];
  return container === 'mkv' ? ['-metadata', `timecode=${start}`] : [];
}

const clockOptions = (container: Container, clip: Clip): string[] =>
  container === 'mp4' || container === 'mov' ? ['-video_track_timescale', `${trackClock(clip)}`] : [];

/** A clock on which every frame falls on a whole tick. */
const trackClock = (clip: Clip): number => {
  const { numerator } = clip.frameRate;
  return numerator < 1000 ? numerator * Math.ceil(1000 / numerator) : numerator;
};

/**
 * The clip's own clock, where an MP4 can count in it. The last frame is told how long it lasts: else it lasts no
 * time at all, and the edit list leaves it out. Frames stay in order so that it is the last one written, too.
 */
function variableClock({ clip, index, first, last, encoding }: MovieOptions): string[] {
  if (encoding.container !== 'mp4' && encoding.container !== 'mov') return ['-fps_mode', 'passthrough'];
  const { numerator, denominator } = index.timeBase;
  const ticks = Math.round(denominator / numerator);
  const clock = ticks * numerator === denominator && ticks <= finestClock ? ticks : finestClock;
  const length = Math.max(1, Math.round(timeSpan(index, last, last, clip) * clock));
  return [
    ...(encoding.codec === 'h264' || encoding.codec === 'h265' ? ['-bf', '0'] : []),
    ...['-fps_mode', 'passthrough', '-enc_time_base', `1/${clock}`],
    ...['-bsf:v', `setts=duration=if(eq(N\\,${last - first})\\,${length}\\,DURATION)`],
    ...['-video_track_timescale', `${clock}`],
  ];
}

/** Ticks a second. */
const finestClock = 1_000_000;

/** How the original's sound is taken over; null when it has none. */
function soundOptions(
  { clip, index, first, last, encoding: { container } }: MovieOptions,
  variable: boolean,
): string[] | null {
  if (clip.sound.length === 0) return null;
  // Without `-copyts` ffmpeg moves the file's first timestamp to 0; the picture's own start is later by this.
  const start = frameTime(index, first) - clip.fileStart;
  const whole = first === 0 && last === index.pts.length - 1 && Math.abs(start) < 0.001;
  if (whole && clip.sound.every((s) => carriedSound[container].has(s.codec)))
    return ['-c:a', 'copy', '-strict', 'experimental'];
  const seconds = variable
    ? timeSpan(index, first, last, clip)
    : ((last - first + 1) * clip.frameRate.denominator) / clip.frameRate.numerator;
  const cut = `atrim=start=${start.toFixed(6)}:end=${(start + seconds).toFixed(6)}`;
  const shift = `asetpts=PTS-(${start.toFixed(6)})/TB,aresample=async=1:first_pts=0`;
  return ['-af', `${cut},${shift}`, ...soundEncoding(container)];
}

/** The font that words are written in. */
const font = (): string =>
  createRequire(import.meta.url).resolve(
    '@fontsource-variable/inter/files/inter-latin-standard-normal.woff2',
  );

const wordFilter = ({ text, x, y, size }: Words): string =>
  [
    `drawtext=fontfile='${font()}'`,
    `text='${text.replace(/[\\\\':%]/g, '')}'`,
    `fontsize=h*${size}:fontcolor=white:box=1:boxcolor=black@0.55:boxborderw=10`,
    `x=w*${x}:y=h*${y}`,
  ].join(':');

/** Tells what the pictures' colours are, and how they are to be converted where they have to be. */
function pictureFilter({ clip, pixelAspect, encoding, words = [] }: MovieOptions): string {
  const { range, space, primaries, transfer } = clip.colour;
  const tags = [
    `range=${range ?? 'tv'}`,
    space && `colorspace=${space}`,
    primaries && `color_primaries=${primaries}`,
    transfer && `color_trc=${transfer}`,
  ].filter(Boolean);
  const matrix = space ?? 'bt709';
  const toRgb =
    encoding.codec === 'png' ? [`scale=in_color_matrix=${matrix}:flags=accurate_rnd+full_chroma_int`] : [];
  return [
    `setparams=${tags.join(':')}`,
    `setsar=${pixelAspect.replace(':', '/')}`,
    ...words.map(wordFilter),
    ...toRgb,
  ].join(',');
}

function colourOptions(clip: Clip): string[] {
  const { range, space, primaries, transfer } = clip.colour;
  return [
    ...(range ? ['-color_range', range] : []),
    ...(space ? ['-colorspace', space] : []),
    ...(primaries ? ['-color_primaries', primaries] : []),
    ...(transfer ? ['-color_trc', transfer] : []),
    ...['-chroma_sample_location', clip.siting],
  ];
}
