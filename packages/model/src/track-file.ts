import {
  cornersFromCentre,
  FormatError,
  Reason,
  reasonNames,
  Samples,
  SampleState,
  sampleStateNames,
  type ClipFacts,
  type NamedTrack,
  type ReasonName,
  type SampleStateName,
} from '@lurn/core';
import { readRegion } from './region.js';

/**
 * Reads a `lurn-tracks` file for a clip of the given size and length. Throws a FormatError that names the
 * place when the text is not such a file or does not fit the clip.
 */
export function readTracksJson(
  text: string,
  clip: Pick<ClipFacts, 'width' | 'height' | 'frames'>,
): NamedTrack[] {
  const file = parse(text);
  if (file.format !== 'lurn-tracks')
    throw new FormatError('This is not a track file: its "format" is not "lurn-tracks".');
  if (file.version !== 1)
    throw new FormatError(
      `This track file is of version ${String(file.version)}; only version 1 can be read.`,
    );
  const size = file.clip as { width?: unknown; height?: unknown } | undefined;
  if (size?.width !== clip.width || size?.height !== clip.height) {
    throw new FormatError(
      `These tracks were made on a clip of ${String(size?.width)}×${String(size?.height)} pixels; this clip has ${clip.width}×${clip.height}.`,
    );
  }
  if (!Array.isArray(file.tracks)) throw new FormatError('The track file has no list "tracks".');
  return file.tracks.map((track: unknown, i: number) => readTrack(track, i, clip.frames));
}

function parse(text: string): Record<string, unknown> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new FormatError(`The track file is not valid JSON: ${(error as Error).message}`);
  }
  if (typeof value !== 'object' || value === null)
    throw new FormatError('The track file is not a JSON object.');
  return value as Record<string, unknown>;
}

const numberOr = (value: unknown, otherwise: number): number =>
  typeof value === 'number' ? value : otherwise;

function readTrack(value: unknown, index: number, frames: number): NamedTrack {
  const track = value as { name?: unknown; kind?: unknown; samples?: unknown; region?: unknown } | null;
  const name = typeof track?.name === 'string' ? track.name : `Track ${index + 1}`;
  const isRegion = track?.kind === 'region';
  if (track?.kind !== 'point' && !isRegion)
    throw new FormatError(`Track "${name}" is of a kind this version cannot read: ${String(track?.kind)}.`);
  if (!Array.isArray(track.samples)) throw new FormatError(`Track "${name}" has no list "samples".`);
  const samples = new Samples(frames);
  const region = isRegion ? readRegion(track.region, name) : undefined;
  if (region) samples.corners = cornersFromCentre(region);
  for (const entry of track.samples as Record<string, unknown>[]) {
    const { frame, x, y } = entry;
    if (!Number.isInteger(frame) || (frame as number) < 0 || (frame as number) >= frames) {
      throw new FormatError(
        `Track "${name}" has a sample at frame ${String(frame)}; this clip has frames 0 to ${frames - 1}.`,
      );
    }
    if (!Number.isFinite(x) || !Number.isFinite(y)) {
      throw new FormatError(`Track "${name}" has no position at frame ${String(frame)}.`);
    }
    const state = sampleStateNames.indexOf(entry.state as SampleStateName);
    const reason = reasonNames.indexOf(entry.reason as ReasonName);
    samples.set(frame as number, {
      x: x as number,
      y: y as number,
      confidence: numberOr(entry.confidence, 1),
      rotation: numberOr(entry.rotation, 0),
      scale: numberOr(entry.scale, 1),
      stretch: numberOr(entry.stretch, 0),
      shear: numberOr(entry.shear, 0),
      tiltX: numberOr(entry.tiltX, 0),
      tiltY: numberOr(entry.tiltY, 0),
      state: state > 0 ? (state as SampleState) : SampleState.tracked,
      reason: reason > 0 ? (reason as Reason) : Reason.none,
    });
  }
  return { name, samples, ...(region && { region }) };
}
