import { basename } from 'node:path';
import {
  parseFrameRate,
  type Bits,
  type ChromaSiting,
  type FrameRate,
  type Subsampling,
  type YuvFormat,
} from '@lurn/core';
import { containerNames, untrusted } from './guard.js';
import { MediaError } from './media-error.js';
import { runTool } from './process.js';

/** Colour tags as ffmpeg spells them; null where the file says nothing. */
export interface ColourTags {
  range: 'tv' | 'pc' | null;
  space: string | null;
  primaries: string | null;
  transfer: string | null;
}

export interface SoundStream {
  codec: string;
  channels: number;
  sampleRate: number;
}

/** What a file's headers say about its picture and sound. Frames are counted by `indexClip`. */
export interface Clip {
  path: string;
  name: string;
  container: string;
  codec: string;
  /** As shown: after the rotation that a phone wrote into the file. */
  width: number;
  height: number;
  /** Width of a pixel over its height, "1:1" for square ones. */
  pixelAspect: string;
  frameRate: FrameRate;
  pixelFormat: string;
  bits: number;
  subsampling: Subsampling;
  siting: ChromaSiting;
  colour: ColourTags;
  sound: SoundStream[];
  /** Which field of an interlaced picture comes first; null for progressive ones. */
  interlaced: 'top' | 'bottom' | null;
  /** Every field is taken for a frame of its own, filled up to full height; the rate counts fields. */
  asFields: boolean;
  /** In seconds, as the header has it; null when it does not say. */
  duration: number | null;
  /** How long the picture alone lasts, seconds; null where the file does not say. */
  pictureDuration: number | null;
  /** Seconds from the file's first timestamp; needed to keep sound and picture together. */
  fileStart: number;
  /** Of the first frame, like "10:00:00:00"; null where there is none, left out by those read before it was looked for. */
  timecode?: string | null;
  /** Whether its pixels have alpha; left out by those read before it was looked for. */
  hasAlpha?: boolean;
}

interface ProbeStream {
  codec_type?: string;
  codec_name?: string;
  width?: number;
  height?: number;
  pix_fmt?: string;
  sample_aspect_ratio?: string;
  r_frame_rate?: string;
  avg_frame_rate?: string;
  duration?: string;
  color_range?: string;
  color_space?: string;
  color_primaries?: string;
  color_transfer?: string;
  chroma_location?: string;
  field_order?: string;
  bits_per_raw_sample?: string;
  channels?: number;
  sample_rate?: string;
  disposition?: { attached_pic?: number };
  side_data_list?: { rotation?: number }[];
  tags?: Tags;
}

/** Names are in capitals in some containers. */
type Tags = Record<string, string | undefined>;

interface Probe {
  streams?: ProbeStream[];
  format?: { format_name?: string; duration?: string; start_time?: string; tags?: Tags };
}

/** Which field is shown first, from what ffprobe says was coded and shown first. */
const firstShown: Record<string, Clip['interlaced']> = { tt: 'top', bt: 'top', bb: 'bottom', tb: 'bottom' };

/** Reads a file's headers. Throws a MediaError that says in one sentence why it is no clip. */
export async function openClip(
  path: string,
  name = basename(path),
  { asFields = false } = {},
): Promise<Clip> {
  let probe: Probe;
  try {
    const text = await runTool('ffprobe', [
      '-v',
      'error',
      '-show_streams',
      '-show_format',
      '-of',
      'json',
      ...untrusted(path),
    ]);
    probe = JSON.parse(text) as Probe;
  } catch (error) {
    if (!(error instanceof MediaError) || error.message.includes('not installed')) throw error;
    if (/No such file|Permission denied|Is a directory/.test(error.message)) {
      throw new MediaError(`"${name}" cannot be opened: ${error.message.replace(/^.*: /, '')}.`);
    }
    if (/not on whitelist/.test(String(error.cause))) {
      throw new MediaError(`"${name}" is in none of the containers that can be read: ${containerNames}.`);
    }
    throw new MediaError(`"${name}" is not a video that can be read.`);
  }
  const streams = probe.streams ?? [];
  const video = streams.find((s) => s.codec_type === 'video' && s.disposition?.attached_pic !== 1);
  if (!video?.width || !video.height) {
    throw new MediaError(`"${name}" has no moving picture in it.`);
  }
  if (!video.codec_name) throw new MediaError(`"${name}" is in a format that this ffmpeg cannot decode.`);
  const turned =
    Math.abs(video.side_data_list?.find((d) => d.rotation !== undefined)?.rotation ?? 0) % 180 === 90;
  const pixelFormat = video.pix_fmt ?? 'yuv420p';
  const interlaced = firstShown[video.field_order ?? ''] ?? null;
  const fields = asFields && interlaced !== null;
  const rate = frameRate(video);
  return {
    path,
    name,
    container: probe.format?.format_name ?? 'unknown',
    codec: video.codec_name,
    width: turned ? video.height : video.width,
    height: turned ? video.width : video.height,
    pixelAspect: known(video.sample_aspect_ratio, ['0:1', 'N/A']) ?? '1:1',
    frameRate: { ...rate, numerator: rate.numerator * (fields ? 2 : 1) },
    interlaced,
    asFields: fields,
    pixelFormat,
    hasAlpha: /^(yuva|rgba|bgra|argb|abgr|gbrap|ya\d)/.test(pixelFormat) || hasHiddenAlpha(video),
    bits: bitDepth(pixelFormat, video.bits_per_raw_sample),
    subsampling: subsampling(pixelFormat),
    siting: video.chroma_location === 'center' || pixelFormat.startsWith('yuvj') ? 'center' : 'left',
    colour: colourTags(video, pixelFormat),
    sound: streams
      .filter((s) => s.codec_type === 'audio')
      .map((s) => ({
        codec: s.codec_name ?? 'unknown',
        channels: s.channels ?? 0,
        sampleRate: Number(s.sample_rate ?? 0),
      })),
    duration: secondsIn(probe.format?.duration),
    pictureDuration: secondsIn(video.duration),
    fileStart: Number(probe.format?.start_time ?? 0) || 0,
    timecode: timecodeIn([...streams.map((s) => s.tags), probe.format?.tags]),
  };
}

/** VP8 and VP9 keep alpha beside the picture, and say so in a tag alone. */
function hasHiddenAlpha({ tags }: ProbeStream): boolean {
  return Object.entries(tags ?? {}).some(
    ([name, value]) => name.toLowerCase() === 'alpha_mode' && value === '1',
  );
}

/** The decoder that brings alpha out, where the usual one leaves it. */
export const alphaDecoder = ({ hasAlpha, codec }: Pick<Clip, 'hasAlpha' | 'codec'>): string[] =>
  hasAlpha && /^vp[89]$/.test(codec) ? ['-c:v', codec === 'vp8' ? 'libvpx' : 'libvpx-vp9'] : [];

function colourTags(video: ProbeStream, pixelFormat: string): ColourTags {
  const others = {
    primaries: known(video.color_primaries, ['unknown', 'reserved']),
    transfer: known(video.color_transfer, ['unknown', 'reserved']),
  };
  if (isRgb(pixelFormat)) return { ...others, range: 'tv', space: 'bt709' };
  const full = video.color_range === 'pc' || pixelFormat.startsWith('yuvj');
  return {
    ...others,
    range: full ? 'pc' : video.color_range === 'tv' ? 'tv' : null,
    space: known(video.color_space, ['unknown', 'reserved']),
  };
}

const timecodeIn = (all: readonly (Tags | undefined)[]): string | null =>
  all.map((tags) => tags?.timecode ?? tags?.TIMECODE).find((one) => one !== undefined) ?? null;

/** Null where nothing, or no number, is said. */
const secondsIn = (text: string | undefined): number | null =>
  Number.isFinite(Number(text)) ? Number(text) : null;

const known = (value: string | undefined, unknown: string[]): string | null =>
  value === undefined || unknown.includes(value) ? null : value;

function frameRate(video: ProbeStream): FrameRate {
  for (const text of [video.r_frame_rate, video.avg_frame_rate]) {
    if (!text || text.startsWith('0/') || text.endsWith('/0')) continue;
    const rate = parseFrameRate(text);
    // Containers with a fine clock report the clock for rate; then the average tells more.
    if (rate.numerator / rate.denominator <= 250) return rate;
  }
  return { numerator: 25, denominator: 1 };
}

function bitDepth(pixelFormat: string, raw: string | undefined): number {
  // Red, green and blue are named by the bits of all channels together.
  if (/^(rgb|bgr)48|^(rgba|bgra)64|^ya16/.test(pixelFormat)) return 16;
  const named = /(?:p0?|gray)(9|10|12|14|16)(?:le|be)?$/.exec(pixelFormat);
  return named ? Number(named[1]) : Number(raw) || 8;
}

function subsampling(pixelFormat: string): Subsampling {
  if (/444|rgb|bgr|gbr/.test(pixelFormat)) return '444';
  if (/422|yuyv|uyvy|p210/.test(pixelFormat)) return '422';
  return '420';
}

/** The 8-bit planar format that the clip's pictures are looked at in; its own where it has one. */
export function workingFormat(clip: Clip): string {
  return (clip.pixelFormat.startsWith('yuvj') ? 'yuvj' : 'yuv') + clip.subsampling + 'p';
}

/** The planar format that pictures to be exported are read in. */
export const readFormat = (clip: Clip, bits: Bits): string =>
  bits === 8 ? workingFormat(clip) : `yuv${clip.subsampling}p${bits}le`;

/** The pictures of a clip as they are read to be exported. */
export const pictureFormat = (clip: Clip, bits: Bits): YuvFormat => ({
  width: clip.width,
  height: clip.height,
  subsampling: clip.subsampling,
  siting: clip.siting,
  range: clip.colour.range === 'pc' ? 'full' : 'limited',
  bits,
});

/** Pictures of red, green and blue are worked on as luma and chroma of this kind. */
export const isRgb = (pixelFormat: string): boolean => /rgb|bgr|gbr|pal8/.test(pixelFormat);

/** Makes frames of fields, where they are asked for. The missing lines come from the fields before and after. */
export const fieldsApart = ({ asFields, interlaced }: Clip): string[] =>
  asFields ? [`bwdif=mode=send_field:parity=${interlaced === 'top' ? 'tff' : 'bff'}:deint=all`] : [];

/**
 * What a decoded picture goes through before its format is set: the matrix that `colour` names. `plainly`, deeper levels
 * lose their last bits without the pattern of dots that hides it from the eye: it would stand still before all that moves.
 */
export function conversion({ pixelFormat, bits }: Clip, plainly = false): string[] {
  const rgb = isRgb(pixelFormat);
  const bare = plainly && bits > 8;
  return [
    ...(rgb ? ['scale=out_color_matrix=bt709:out_range=tv'] : []),
    // Dots are left out only where nothing but the last bits is lost.
    ...(rgb && bare ? ['format=yuv444p16le'] : []),
    ...(bare ? ['scale=sws_dither=none'] : []),
  ];
}
