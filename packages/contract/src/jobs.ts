export type JobKind = 'import' | 'track' | 'scene' | 'export';
export type JobState = 'waiting' | 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';

/** Long work on the server. */
export interface JobView {
  id: string;
  clipId: string;
  kind: JobKind;
  state: JobState;
  /** Frames done, and of how many; 0 when not known. */
  done: number;
  total: number;
  error: string | null;
  startedAt: string;
  /** The tracks a tracking job follows. */
  trackIds: string[];
  /** The name an export is downloaded under. */
  fileName: string | null;
}
