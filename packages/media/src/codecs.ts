import {
  codecKinds,
  codecs,
  containerKinds,
  type Bits,
  type ChromaSiting,
  type Codec,
  type Container,
  type PictureSize,
  type Subsampling,
  type WrittenBits,
} from '@lurn/core';
import { coresInUse } from './cores.js';
import { MediaError } from './media-error.js';

/** What a movie is written as. */
export interface Encoding {
  codec: Codec;
  container: Container;
  bits: WrittenBits;
}

/**
 * What a clip is written as: by what is asked for, the file's ending, or what is usual. Throws a MediaError that says what the
 * codec cannot.
 */
export function encodingFor(
  asked: { codec?: Codec; bits?: number; container?: Container },
  clip: { bits: number },
  alpha: boolean,
): Encoding {
  const codec = asked.codec ?? usualCodec(asked.container, alpha);
  const kind = codecKinds[codec];
  const container = asked.container ?? kind.containers[0];
  if (!kind.containers.includes(container))
    throw new MediaError(
      `${kind.name} is not written into ${containerKinds[container].ending} files: choose ${listed(kind.containers.map((one) => containerKinds[one].ending))}.`,
    );
  const possible = alpha ? kind.alpha : kind.bits;
  if (possible.length === 0)
    throw new MediaError(
      `${kind.name} has no transparency: choose ${listed(codecs.filter((one) => codecKinds[one].alpha.length > 0).map((one) => codecKinds[one].name))}, or another edge.`,
    );
  const bits =
    asked.bits ?? possible.find((one) => one >= Math.min(clip.bits, 12)) ?? possible[possible.length - 1];
  const known = possible.find((one) => one === bits);
  if (known === undefined)
    throw new MediaError(
      `${kind.name} has no ${String(bits)} bits${alpha ? ' with transparency' : ''}: choose ${listed(possible.map(String))}.`,
    );
  return { codec, container, bits: known };
}

function usualCodec(container: Container | undefined, alpha: boolean): Codec {
  const fitting = codecs.filter((codec) => !container || codecKinds[codec].containers.includes(container));
  const carrying = alpha ? fitting.filter((codec) => codecKinds[codec].alpha.length > 0) : fitting;
  if (container === 'webm') return 'vp9';
  if (container === 'mkv' && !alpha) return 'ffv1';
  return carrying.at(0) ?? fitting[0];
}

const listed = (words: readonly string[]): string =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} or ${words[words.length - 1]}`;

/** The container that a file's ending names; null where that is none. */
export const containerOf = (path: string): Container | null =>
  // A folder takes pictures by themselves.
  path.endsWith('/')
    ? 'png'
    : ((Object.keys(containerKinds) as Container[]).find((one) =>
        path.toLowerCase().endsWith(containerKinds[one].ending),
      ) ?? null);

/** Bits a level that pictures are made in before they are written; planar pictures of twelve have no fourth plane. */
export const workingBits = ({ bits }: Pick<Encoding, 'bits'>, alpha = false): Bits =>
  bits === 16 ? (alpha ? 10 : 12) : bits;

/** Planar pictures as ffmpeg names them. */
export const planarName = (format: { subsampling: Subsampling; bits: Bits; alpha?: boolean }): string =>
  `yuv${format.alpha ? 'a' : ''}${format.subsampling}p${format.bits > 8 ? `${format.bits}le` : ''}`;

/** The pixel format that is encoded: as near to the pictures' own as the codec has. */
export function encodedFormat(
  { codec, bits }: Encoding,
  own: { subsampling: Subsampling; alpha?: boolean; siting: ChromaSiting },
): string {
  const { subsamplings } = codecKinds[codec];
  const { alpha = false } = own;
  if (codec === 'png') return bits === 16 ? (alpha ? 'rgba64be' : 'rgb48be') : alpha ? 'rgba' : 'rgb24';
  const subsampling = subsamplings.includes(own.subsampling) ? own.subsampling : subsamplings[0];
  // Of VP9 only pictures with quartered chroma have transparency.
  const taken = codec === 'vp9' && alpha ? '420' : subsampling;
  return planarName({ subsampling: taken, bits: workingBits({ bits }), alpha });
}

/** Luma samples of a 1080p picture. */
const fullHd = 1920 * 1080;

/** H.264 close to invisible loss, at a speed that keeps up with the decoder. */
export const videoEncoding = ['-c:v', 'libx264', '-preset', 'fast', '-crf', '17'];

/**
 * Encoders look ahead over many pictures, which they hold at full size: of large ones over fewer, and with no more
 * threads than there are cores, so that they stay within the same memory.
 */
function x264({ width, height }: PictureSize): string[] {
  const pictures = Math.round((30 * fullHd) / (width * height));
  if (pictures >= 30) return videoEncoding;
  const threads = ['-threads', `${coresInUse()}`, '-x264-params', 'sync-lookahead=0'];
  return [...videoEncoding, '-rc-lookahead', `${Math.max(4, pictures)}`, ...threads];
}

/** What tells ffmpeg how to encode. */
export function encoderOptions({ codec, container }: Encoding, size: PictureSize, alpha: boolean): string[] {
  switch (codec) {
    case 'h264':
      return x264(size);
    case 'h265':
      return [
        ...['-c:v', 'libx265', '-preset', 'fast', '-crf', '19', '-x265-params', 'log-level=error'],
        ...(container === 'mkv' ? [] : ['-tag:v', 'hvc1']),
      ];
    case 'prores':
      return ['-c:v', 'prores_ks', '-profile:v', '3', '-vendor', 'apl0'];
    case 'prores4444':
      return [
        ...['-c:v', 'prores_ks', '-profile:v', '4', '-vendor', 'apl0'],
        ...(alpha ? ['-alpha_bits', '16'] : []),
      ];
    case 'vp9':
      return [
        ...[
          '-c:v',
          'libvpx-vp9',
          '-crf',
          '22',
          '-b:v',
          '0',
          '-deadline',
          'good',
          '-cpu-used',
          '5',
          '-row-mt',
          '1',
        ],
        ...['-threads', `${coresInUse()}`, ...(alpha ? ['-auto-alt-ref', '0'] : [])],
      ];
    case 'av1':
      return ['-c:v', 'libsvtav1', '-preset', '9', '-crf', '24', '-svtav1-params', 'lp=2'];
    case 'ffv1':
      return [
        '-c:v',
        'ffv1',
        '-level',
        '3',
        '-slices',
        '16',
        '-slicecrc',
        '1',
        '-threads',
        `${coresInUse()}`,
      ];
    case 'png':
      return ['-c:v', 'png', '-compression_level', '3'];
  }
}

/** Sound that a container can carry as it is; FLAC in MP4 only where ffmpeg is told that this is meant. */
export const carriedSound: Record<Container, ReadonlySet<string>> = {
  mp4: new Set(['aac', 'mp3', 'ac3', 'eac3', 'alac', 'opus', 'flac']),
  mov: new Set(['aac', 'mp3', 'ac3', 'eac3', 'alac', 'pcm_s16le', 'pcm_s24le', 'pcm_s16be', 'pcm_s24be']),
  webm: new Set(['opus', 'vorbis']),
  // Sound that is told to begin before 0, as AAC does, would push the picture's timestamps back here.
  mkv: new Set(['ac3', 'eac3', 'flac', 'pcm_s16le', 'pcm_s24le']),
  png: new Set(),
};

/** Sound that is encoded anew. */
export function soundEncoding(container: Container): string[] {
  if (container === 'webm') return ['-c:a', 'libopus', '-b:a', '160k'];
  return container === 'mkv' ? ['-c:a', 'flac'] : ['-c:a', 'aac', '-b:a', '192k'];
}
