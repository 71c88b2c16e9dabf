import { bitChoices, codecs, containers, pairLayouts } from '@lurn/core';
import { Choice, Flag, Id, Ids, Part, Words } from '@lurn/model';
import type { JobView } from './jobs.js';

/** Before and after in one movie. */
export class ComparisonRequest {
  @Choice(pairLayouts, { description: 'Beside each other, above each other, or by a moving wipe' })
  layout!: (typeof pairLayouts)[number];

  @Flag({ description: 'Whether “Before” and “After” are written into it' }) words!: boolean;
}

const onlyChoices = ['layers', 'matte'] as const;

/** What a movie is written as; what is left out is what is usual for the rest. */
export class ExportRequest {
  @Choice(codecs, { optional: true }) codec?: (typeof codecs)[number];

  @Choice(containers, { optional: true, description: 'png: pictures by themselves, in a zip' })
  container?: (typeof containers)[number];

  @Choice(bitChoices, {
    optional: true,
    description: 'A level; what the clip has, as far as the codec can, when left out',
  })
  bits?: (typeof bitChoices)[number];

  @Part(() => ComparisonRequest, {
    optional: true,
    description: 'Show the source together with what is made of it',
  })
  comparison?: ComparisonRequest;

  @Choice(onlyChoices, {
    optional: true,
    description: 'The layers by themselves, with alpha; or how much of each pixel they cover, as a picture',
  })
  only?: (typeof onlyChoices)[number];

  @Id({
    optional: true,
    description:
      'A clip of the project: this clip’s own export, treated elsewhere. The original motion is put back onto it',
  })
  treated?: string;

  @Words(1, 80, {
    ...{ optional: true, example: 'quay-held' },
    description: 'Of pictures: a folder below the one that the server was given, instead of a zip',
  })
  folder?: string;
}

/** What came of asking for several exports: those that wait or run, and a sentence for each clip that has nothing to export. */
export interface ExportsView {
  jobs: JobView[];
  refused: { clipId: string; message: string }[];
}

/** Several clips of a project, exported one after another by the same settings. */
export class SeveralExportsRequest extends ExportRequest {
  @Ids({ least: 1, most: 500 }) clipIds!: string[];
}

/** Clips that are to be steadied as another is: its choices are theirs, and its motion is followed anew in each. */
export class SteadyLikeRequest {
  @Ids({ least: 1, most: 500 }) clipIds!: string[];
  @Part(() => ExportRequest, { optional: true, description: 'And write their movies, too' })
  export?: ExportRequest;
}

/** What a codec has come to on this machine so far. */
export interface ExportPace {
  /** Output pixels written a second. */
  pixelsPerSecond: number;
  /** Bits of the file to an output pixel. */
  bitsPerPixel: number;
}
