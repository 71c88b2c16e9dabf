import { Reason, reasonNames, type ReasonName } from '../track/sample-reason.js';
import { sampleStateNames, Samples, SampleState, type SampleStateName } from '../track/samples.js';
import { parsePixelAspect } from '../geometry/pixel-aspect.js';
import { cornersFromCentre, regionMatrix, type Region } from '../track/region/region.js';
import { FormatError } from './format-error.js';
import { readRegion } from './region-record.js';
import { clipHeader, rounded, type ClipFacts } from './clip-facts.js';

/** A track with its name, as it goes into files. */
export interface NamedTrack {
  name: string;
  samples: Samples;
  /** What is followed, where it is a flat area and no point. */
  region?: Region;
}

/** Tracks as open JSON: format `lurn-tracks`, version 1. */
export function writeTracksJson(clip: ClipFacts, tracks: readonly NamedTrack[]): string {
  return JSON.stringify(
    {
      format: 'lurn-tracks',
      version: 1,
      clip: clipHeader(clip),
      tracks: tracks.map(({ name, samples, region }) =>
        region
          ? { name, kind: 'region', region, samples: listRegionSamples(samples, region, clip) }
          : { name, kind: 'point', samples: [...listSamples(samples)] },
      ),
    },
    null,
    1,
  );
}

const csvColumns = [
  ...(['frame', 'x', 'y', 'confidence', 'state', 'rotation', 'scale', 'reason'] as const),
  ...(['stretch', 'shear', 'tiltX', 'tiltY'] as const),
] as const;

/** Of regions: where the quad's corners are, upper left and right, lower right and left, in pixels and in percent of the picture. */
const cornerColumns = ['upperLeft', 'upperRight', 'lowerRight', 'lowerLeft'].flatMap((corner) =>
  ['X', 'Y', 'XPercent', 'YPercent'].map((axis) => corner + axis),
);

/** Tracks as comma-separated values (RFC 4180), one sample a line under a heading. */
export function writeTracksCsv(tracks: readonly NamedTrack[], clip: CsvClip): string {
  const hasRegion = tracks.some(({ region }) => region);
  const lines = [['track', ...csvColumns, ...(hasRegion ? cornerColumns : [])].join(',')];
  for (const { name, samples, region } of tracks) {
    const quoted = /[",\r\n]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name;
    for (const s of listSamples(samples)) {
      const corners = region ? cornersInCsv(samples, s.frame, clip) : [];
      lines.push([quoted, ...csvColumns.map((column) => s[column]), ...corners].join(','));
    }
  }
  return lines.join('\r\n') + '\r\n';
}

/** What a table of tracks needs of its clip. */
export type CsvClip = Pick<ClipFacts, 'width' | 'height' | 'pixelAspect'>;

function cornersInCsv(samples: Samples, frame: number, clip: CsvClip): number[] {
  return samples
    .cornersAt(frame, parsePixelAspect(clip.pixelAspect ?? '1:1'))
    .flatMap(({ x, y }) => [
      ...[rounded(x), rounded(y)],
      ...[rounded((100 * x) / clip.width), rounded((100 * y) / clip.height)],
    ]);
}

function* listSamples(samples: Samples) {
  for (let frame = 0; frame < samples.frames; frame++) {
    const sample = samples.get(frame);
    if (!sample) continue;
    yield {
      frame,
      x: rounded(sample.x),
      y: rounded(sample.y),
      confidence: rounded(sample.confidence),
      state: sampleStateNames[sample.state],
      rotation: rounded(sample.rotation, 6),
      scale: rounded(sample.scale, 6),
      reason: sample.reason ? reasonNames[sample.reason] : undefined,
      // Left out where a similarity tells all.
      stretch: rounded(sample.stretch, 6) || undefined,
      shear: rounded(sample.shear, 6) || undefined,
      tiltX: rounded(sample.tiltX, 10) || undefined,
      tiltY: rounded(sample.tiltY, 10) || undefined,
    };
  }
}

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

/** Samples of a region, with its whole matrix and where its corners are. */
function listRegionSamples(samples: Samples, region: Region, clip: ClipFacts) {
  const aspect = parsePixelAspect(clip.pixelAspect ?? '1:1');
  const { centre } = region;
  return Array.from(listSamples(samples), (sample) => {
    const matrix = regionMatrix(samples.place(sample.frame), centre, aspect);
    return {
      ...sample,
      frameFromKey: matrix.map((value) => Number((value / matrix[8]).toPrecision(12))),
      corners: samples.cornersAt(sample.frame, aspect).flatMap(({ x, y }) => [rounded(x), rounded(y)]),
    };
  });
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
