import { matrixAt, type Mat3 } from '../geometry/mat3.js';
import { frameFromReference, type Motion, type MotionShot } from '../solve/motion.js';
import type { PictureSize } from '../framing/framing.js';
import { mostReadout, rowMotionOf } from '../solve/row-motion.js';
import type { SteadiedFrames } from '../steady/report.js';
import { clipHeader, type ClipFacts } from './clip-facts.js';
import { FormatError } from '../input-error.js';

/**
 * A motion and the placement made of it as open JSON: format `lurn-motion`, version 1. Matrices are
 * row-major with corner-origin pixels; only frames `first` to `last` are listed. Of a clip of several shots each is listed,
 * with the frame that it leaves alone. With a `readout`, placements are of frames as they stood at their middle moment.
 */
export function writeMotionJson(
  clip: ClipFacts,
  motion: Motion,
  placements: Float64Array,
  first: number,
  last: number,
  output?: PictureSize | null,
): string {
  const frames: { frame: number; frameFromReference: Mat3; outputFromFrame: Mat3 }[] = [];
  for (let frame = first; frame <= last; frame++) {
    frames.push({
      frame,
      frameFromReference: frameFromReference(motion, frame),
      outputFromFrame: matrixAt(placements, frame),
    });
  }
  return JSON.stringify(
    {
      format: 'lurn-motion',
      version: 1,
      clip: clipHeader(clip),
      referenceFrame: motion.referenceFrame,
      model: motion.model,
      ...(motion.readout ? { readout: motion.readout } : {}),
      ...(output && !isSameSize(output, clip)
        ? { output: { width: output.width, height: output.height } }
        : {}),
      ...(motion.shots && motion.shots.length > 1 ? { shots: shotsWithin(motion.shots, first, last) } : {}),
      frames,
    },
    null,
    1,
  );
}

const isSameSize = (a: PictureSize, b: PictureSize): boolean => a.width === b.width && a.height === b.height;

const shotsWithin = (shots: readonly MotionShot[], first: number, last: number) =>
  shots
    .filter((shot) => shot.first <= last && shot.last >= first)
    .map((shot) => ({
      first: Math.max(shot.first, first),
      last: Math.min(shot.last, last),
      referenceFrame: shot.referenceFrame,
    }));

/** What a `lurn-motion` file tells of the frames it lists. */
export interface MotionFile extends SteadiedFrames {
  referenceFrame: number;
  model: string;
  /** The size of the output that its placements are in, where that is not the clip's. */
  output: PictureSize | null;
}

/**
 * Reads a `lurn-motion` file for a clip of the given size. Throws a FormatError that names what is wrong when the text is
 * not such a file, or is of another clip.
 */
export function readMotionJson(
  text: string,
  clip: Pick<ClipFacts, 'width' | 'height' | 'frames'>,
): MotionFile {
  let file: Record<string, unknown>;
  try {
    file = JSON.parse(text) as Record<string, unknown>;
  } catch (error) {
    throw new FormatError(`The motion file is not valid JSON: ${(error as Error).message}`);
  }
  if (file?.format !== 'lurn-motion')
    throw new FormatError('This is not a motion file: its "format" is not "lurn-motion".');
  if (file.version !== 1)
    throw new FormatError(
      `This motion file is of version ${String(file.version)}; only version 1 can be read.`,
    );
  const size = file.clip as { width?: unknown; height?: unknown } | undefined;
  if (size?.width !== clip.width || size?.height !== clip.height)
    throw new FormatError(
      `This motion was found on a clip of ${String(size?.width)}×${String(size?.height)} pixels; this clip has ${clip.width}×${clip.height}.`,
    );
  const rows = file.frames as { frame?: unknown; frameFromReference?: unknown; outputFromFrame?: unknown }[];
  if (!Array.isArray(rows) || rows.length === 0) throw new FormatError('The motion file lists no frames.');
  const first = rows[0].frame as number;
  const tables = {
    frameFromReference: new Float64Array(9 * rows.length),
    outputFromFrame: new Float64Array(9 * rows.length),
  };
  rows.forEach((row, k) => {
    if (row.frame !== first + k || !Number.isInteger(first) || first < 0 || first + k >= clip.frames)
      throw new FormatError(
        `The motion file's frame ${String(row.frame)} is out of order or beyond the clip.`,
      );
    for (const name of ['frameFromReference', 'outputFromFrame'] as const) {
      const matrix = row[name] as number[];
      if (!Array.isArray(matrix) || matrix.length !== 9 || !matrix.every(Number.isFinite))
        throw new FormatError(`Frame ${first + k} of the motion file has no matrix "${name}".`);
      tables[name].set(matrix, 9 * k);
    }
  });
  const shots = Array.isArray(file.shots) ? (file.shots as { first: number; last: number }[]) : [];
  const { readout = 0 } = file as { readout?: number };
  if (!(Math.abs(readout) <= mostReadout))
    throw new FormatError(`The motion file's readout, ${String(readout)}, is no share of a frame.`);
  const listed = shots.map((shot) => ({ first: shot.first - first, last: shot.last - first }));
  const motion = { frames: rows.length, matrices: tables.frameFromReference, pixelAspect: 1, readout };
  return {
    first,
    ...tables,
    cuts: shots.map((shot) => shot.first),
    rows: rowMotionOf({ ...motion, shots: listed.length > 0 ? listed : undefined }, clip.height, first),
    output: outputFrom(file.output),
    referenceFrame: Number(file.referenceFrame),
    model: String(file.model),
  };
}

function outputFrom(output: unknown): PictureSize | null {
  if (output === undefined) return null;
  const { width, height } = output as Partial<PictureSize>;
  if (!(Number(width) > 0 && Number(height) > 0))
    throw new FormatError('The motion file’s "output" has no width and height.');
  return { width: Number(width), height: Number(height) };
}
