import { reasonNames } from '../track/sample-reason.js';
import { sampleStateNames, type Samples } from '../track/samples.js';
import { parsePixelAspect } from '../geometry/pixel-aspect.js';
import { regionMatrix, type Region } from '../track/region/region.js';
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
