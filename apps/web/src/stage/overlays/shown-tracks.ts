import type { TrackView } from '@lurn/contract';
import type { TrackSamples } from '../../state/track-samples';
import type { ShownTrack } from '../crowd';

/** Tracks that are not hidden, with their samples. */
export const shownTracks = (
  tracks: readonly TrackView[],
  samples: ReadonlyMap<string, TrackSamples>,
): ShownTrack[] =>
  tracks.flatMap((track) => {
    const own = samples.get(track.id);
    return own && !track.hidden ? [{ track, own }] : [];
  });
