import { formatFrameRate } from '@lurn/core';
import { frameTime, isVariable, timeSpan, type ClipIndex } from './clip-index.js';
import { exportFormat, type Clip } from './clip.js';
import { coresInUse } from './cores.js';
import { untrusted } from './guard.js';
import { startFfmpeg } from './process.js';
import { pictureHead, streamHead } from './timed-pictures.js';

export interface MovieOptions {
  path: string;
  /** The clip whose size, rate, colour tags and sound the movie takes over. */
  clip: Clip;
  index: ClipIndex;
  /** The exported range, both included. */
  first: number;
  last: number;
  signal?: AbortSignal;
}

export interface MovieWriter {
  /** Takes one picture in the clip's export format; resolves when its bytes may be used again. */
  write(picture: Uint8Array): Promise<void>;
  /** Resolves when the file is whole. */
  finish(): Promise<void>;
  /** Ends the encoder; resolves when it no longer touches the file. */
  abandon(): Promise<void>;
}

/** Close to invisible loss, at a speed that keeps up with the decoder. */
export const videoEncoding = ['-c:v', 'libx264', '-preset', 'fast', '-crf', '17'];

/** Luma samples of a 1080p picture. */
const fullHd = 1920 * 1080;

/**
 * The encoder looks ahead over many pictures, which it holds at full size: of large ones over fewer, and with no more
 * threads than there are cores, so that it stays within the same memory.
 */
const lookahead = ({ width, height }: Clip): string[] => {
  const pictures = Math.round((30 * fullHd) / (width * height));
  if (pictures >= 30) return [];
  const threads = ['-threads', `${coresInUse()}`, '-x264-params', 'sync-lookahead=0'];
  return ['-rc-lookahead', `${Math.max(4, pictures)}`, ...threads];
};

/** Sound that an MP4 can carry as it is; FLAC only where ffmpeg is told that this is meant. */
const copied = new Set(['aac', 'mp3', 'ac3', 'eac3', 'alac', 'opus', 'flac']);

/**
 * Starts an H.264 MP4 that is fed picture by picture and takes the range's sound from the original. It keeps the
 * clip's rate, or, where that varies, each frame's timestamp.
 */
export function startMovie(options: MovieOptions): MovieWriter {
  const { clip, index, path, first, signal } = options;
  const rate = formatFrameRate(clip.frameRate);
  const variable = isVariable(index, clip.frameRate);
  const sound = soundOptions(options, variable);
  const tool = startFfmpeg(
    [
      ...['-loglevel', 'warning'],
      ...(variable
        ? ['-f', 'matroska']
        : [
            ...['-f', 'rawvideo', '-pix_fmt', exportFormat(clip), '-s', `${clip.width}x${clip.height}`],
            ...['-framerate', rate],
          ]),
      ...['-i', 'pipe:0'],
      ...(sound ? untrusted(clip.path) : []),
      ...['-map', '0:v:0', '-vf', colourFilter(clip)],
      ...[...videoEncoding, ...lookahead(clip), '-pix_fmt', exportFormat(clip)],
      ...(sound ? ['-map', '1:a', ...sound] : []),
      ...colourOptions(clip),
      ...(variable ? variableClock(options) : ['-video_track_timescale', `${trackClock(clip)}`]),
      ...['-movflags', '+faststart', '-f', 'mp4', '-y', path],
    ],
    { signal },
  );
  let failed: Error | null = null;
  tool.done.catch((error: Error) => (failed = error));
  let frame = first;
  const start = frameTime(index, first);
  if (variable) tool.process.stdin.write(streamHead(clip.width, clip.height, exportFormat(clip)));
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

/** A clock on which every frame falls on a whole tick. */
const trackClock = (clip: Clip): number => {
  const { numerator } = clip.frameRate;
  return numerator < 1000 ? numerator * Math.ceil(1000 / numerator) : numerator;
};

/**
 * The clip's own clock, where an MP4 can count in it. The last frame is told how long it lasts: else it lasts no
 * time at all, and the edit list leaves it out. Frames stay in order so that it is the last one written, too.
 */
function variableClock({ clip, index, first, last }: MovieOptions): string[] {
  const { numerator, denominator } = index.timeBase;
  const ticks = Math.round(denominator / numerator);
  const clock = ticks * numerator === denominator && ticks <= finestClock ? ticks : finestClock;
  const length = Math.max(1, Math.round(timeSpan(index, last, last, clip) * clock));
  return [
    ...['-bf', '0', '-fps_mode', 'passthrough', '-enc_time_base', `1/${clock}`],
    ...['-bsf:v', `setts=duration=if(eq(N\\,${last - first})\\,${length}\\,DURATION)`],
    ...['-video_track_timescale', `${clock}`],
  ];
}

/** Ticks a second. */
const finestClock = 1_000_000;

/** How the original's sound is taken over; null when it has none. */
function soundOptions({ clip, index, first, last }: MovieOptions, variable: boolean): string[] | null {
  if (clip.sound.length === 0) return null;
  // Without `-copyts` ffmpeg moves the file's first timestamp to 0; the picture's own start is later by this.
  const start = frameTime(index, first) - clip.fileStart;
  const whole = first === 0 && last === index.pts.length - 1 && Math.abs(start) < 0.001;
  if (whole && clip.sound.every((s) => copied.has(s.codec)))
    return ['-c:a', 'copy', '-strict', 'experimental'];
  const seconds = variable
    ? timeSpan(index, first, last, clip)
    : ((last - first + 1) * clip.frameRate.denominator) / clip.frameRate.numerator;
  const cut = `atrim=start=${start.toFixed(6)}:end=${(start + seconds).toFixed(6)}`;
  const shift = `asetpts=PTS-(${start.toFixed(6)})/TB,aresample=async=1:first_pts=0`;
  return ['-af', `${cut},${shift}`, '-c:a', 'aac', '-b:a', '192k'];
}

function colourFilter(clip: Clip): string {
  const { range, space, primaries, transfer } = clip.colour;
  const tags = [
    `range=${range ?? 'tv'}`,
    space && `colorspace=${space}`,
    primaries && `color_primaries=${primaries}`,
    transfer && `color_trc=${transfer}`,
  ].filter(Boolean);
  return `setparams=${tags.join(':')},setsar=${clip.pixelAspect.replace(':', '/')}`;
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
