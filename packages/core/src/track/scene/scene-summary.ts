import type { Point } from '../../geometry/mat3.js';
import { motionModels, type MotionModel } from '../../solve/fit-model.js';
import { leastReadout } from './group-search.js';
import type { FrameSpan, MotionGroup, ShotGroups } from './motion-group.js';

/** What is told of a motion group, but for its motion. Lengths in square pixels. */
export interface GroupSummary {
  /** How much of the picture it is, over the shot, 0 to 1. */
  share: number;
  first: number;
  last: number;
  /** Features, and those kept out of every solve. */
  members: number;
  heldOut: number;
  /** RMS distance of its features from its motion, by model, pixels. */
  residuals: Record<MotionModel, number>;
  proposed: MotionModel;
  /** How far it slides against the first group, RMS pixels. */
  slide: number;
  /** From the first group, at 0, to the one that slides most, at 1 or −1; null for what moves by itself. */
  depth: number | null;
  /** Its middle on the shot's first frame. */
  middle: Point;
}

/** What is told of a shot. */
export interface ShotSummary extends FrameSpan {
  /** The one an editor would hold first of all. */
  groups: GroupSummary[];
  /** Frames on which nothing was followed. */
  bridged: FrameSpan[];
  /** The sensor's readout, as a share of a frame, and its standard deviation; null where the shot does not tell. */
  readout: { share: number; error: number } | null;
}

/** Whether so short a readout is none that can be seen. */
export const isNoReadout = (share: number): boolean => Math.abs(share) < leastReadout;

/** A readout in words. */
export function readoutInWords(readout: ShotSummary['readout']): string {
  if (!readout) return 'cannot be told from this clip';
  return isNoReadout(readout.share) ? 'none' : `read out over ${readout.share.toFixed(2)} of a frame`;
}

/** The readout of a clip as its shots tell it, the surest weighing most: one sensor filmed them all. Null where none tells. */
export function readoutOf(shots: readonly Pick<ShotSummary, 'readout'>[]): ShotSummary['readout'] {
  const told = shots.flatMap(({ readout }) => readout ?? []);
  const weights = told.map(({ error }) => 1 / Math.max(error, 1e-4) ** 2);
  const weight = weights.reduce((sum, w) => sum + w, 0);
  const share = told.reduce((sum, readout, i) => sum + weights[i] * readout.share, 0) / weight;
  return weight > 0 ? { share, error: 1 / Math.sqrt(weight) } : null;
}

export const summaryOf = ({ first, last, groups, bridged, readout }: ShotGroups): ShotSummary => ({
  first,
  last,
  groups: groups.map(groupSummary),
  bridged: spansOf(bridged, first),
  readout: readout && { share: readout.share, error: readout.error },
});

const groupSummary = (group: MotionGroup): GroupSummary => {
  const { share, first, last, members, heldOut, models, proposed, slide, depth, middle } = group;
  const residuals = Object.fromEntries(
    motionModels.map((model) => [model, models[model].residual]),
  ) as GroupSummary['residuals'];
  const counts = { members: members.length, heldOut: heldOut.length };
  return { share, first, last, ...counts, residuals, proposed, slide, depth, middle };
};

/** The stretches of ones in a row of flags that begins at a frame. */
function spansOf(flags: Uint8Array, from: number): FrameSpan[] {
  const spans: FrameSpan[] = [];
  flags.forEach((flag, k) => {
    if (!flag) return;
    const last = spans[spans.length - 1];
    if (last && last.last === from + k - 1) last.last++;
    else spans.push({ first: from + k, last: from + k });
  });
  return spans;
}
