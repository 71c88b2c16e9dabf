import type { ClipCard, ClipChange } from './clips.js';
import type { JobView } from './jobs.js';
import type { SampleRow } from './tracks.js';

/** What the event stream of a project carries, each as JSON in `data`. */
export type ProjectEvent =
  | { type: 'clip'; clip: ClipCard }
  | { type: 'clip-removed'; clipId: string }
  | { type: 'job'; job: JobView }
  | { type: 'job-gone'; id: string }
  | { type: 'change'; change: ClipChange }
  | { type: 'samples'; clipId: string; trackId: string; samples: SampleRow[] }
  /** Something was missed for good: fetch anew. */
  | { type: 'reset' };

/** What comes with every refusal. */
export interface ErrorView {
  statusCode: number;
  message: string | string[];
  /** What another window has done that this would write over. */
  conflict?: string;
}
