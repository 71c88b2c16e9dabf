import type { Codec } from '@lurn/core';
import { containerOf, encodingFor, type Clip, type Encoding } from '@lurn/media';
import { UsageError } from './usage-error.js';

/** What a movie is asked to be written as. */
export interface EncodingArguments {
  out: string;
  codec?: Codec;
  bits?: number;
}

/** What is written, by what is asked for and the file's ending. */
export function encodingOf(clip: Clip, { out, codec, bits }: EncodingArguments, alpha: boolean): Encoding {
  const container = containerOf(out);
  if (!container)
    throw new UsageError(
      `"${out}" has no ending that is known: .mp4, .mov, .webm, .mkv, or .zip or a folder/ for pictures.`,
    );
  return encodingFor({ codec, bits, container }, clip, alpha);
}
