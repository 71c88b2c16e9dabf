/** `like`: steadying a clip as another is. */
export type JobKind = 'import' | 'track' | 'scene' | 'export' | 'like';
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
  /** The name an export is downloaded under, or the folder it went to; of `like` the clip's name. */
  fileName: string | null;
}
