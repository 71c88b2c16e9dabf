import { Choice, KeptSteadyRecord, Part, partOf, SteadyRecord } from '@lurn/model';

/** All that is chosen about steadying a clip. */
export type SteadyView = SteadyRecord;
export type SteadySpanView = SteadyView['spans'][number];
export type HandKeyView = SteadyView['keys'][number];
export type WanderAreaView = NonNullable<SteadyView['within']>;
export type OutputSizeView = NonNullable<SteadyView['output']>;
/** All that is chosen about steadying, kept by a name, to go back to and to compare with. */
export type KeptSteadyView = KeptSteadyRecord;

const labels = [
  'Mode',
  'Smoothing',
  'Kind',
  'Model',
  'Rolling shutter',
  'Wander area',
  'Stretches',
  'By hand',
  'Strength',
  'Channels',
  'Reference frame',
  'Range',
  'Framing',
  'Hide bare edges',
  'Varying zoom',
  'Output size',
  'Edges',
  'Resampling',
  'Kept settings',
] as const;

export class SteadyRequest {
  @Part(() => SteadyRecord) steady!: SteadyRecord;

  @Choice(labels, { description: 'What the change is called when it can be undone', example: 'Smooth' })
  label!: string;
}

export class KeepSteadyRequest extends partOf(KeptSteadyRecord, ['name'], { optional: false }) {
  declare name: string;
}
