import { useMemo } from 'react';
import { useDocument } from '../../state/document';
import { usePlayhead } from '../../state/playhead';
import { useSelection } from '../../state/selection';
import type { TrackSamples } from '../../state/track-samples';
import { trackColour } from '../../ui/track-colour';
import type { PaneGeometry } from '../panes';
import { shownTracks } from './shown-tracks';

/** Of longer clips only what is near the frame shown is drawn of each path, a part of so many frames on either side. */
const part = 250;
const leastParted = 1000;

/** Paths over the source picture: painted by themselves, as boxes move without them. */
export function Paths({ pane }: { pane: PaneGeometry }) {
  const tracks = useDocument((s) => s.tracks);
  const samples = useDocument((s) => s.samples);
  const chosen = useSelection((s) => s.chosen);
  const frames = useDocument((s) => s.clip?.frames ?? 0);
  const middle = usePlayhead((s) => (frames > leastParted ? Math.floor(Math.max(0, s.shown) / part) : 0));
  const [first, end] = frames > leastParted ? [(middle - 1) * part, (middle + 2) * part] : [0, frames];
  return (
    <g>
      {shownTracks(tracks, samples).map(({ track, own }) => (
        <PathLine
          key={track.id}
          pane={pane}
          samples={own}
          first={Math.max(0, first)}
          end={Math.min(end, frames)}
          colour={trackColour(track.position)}
          faint={!chosen.has(track.id)}
        />
      ))}
    </g>
  );
}

/** Where the point has been and goes, in clip pixels; drawn anew only when samples change. */
function PathLine({
  pane,
  samples,
  first,
  end,
  colour,
  faint,
}: {
  pane: PaneGeometry;
  samples: TrackSamples;
  first: number;
  end: number;
  colour: string;
  faint: boolean;
}) {
  const d = useMemo(() => {
    let path = '';
    let open = false;
    for (let k = first; k < end; k++) {
      if (!samples.found(k)) open = false;
      else {
        path += `${open ? 'L' : 'M'}${samples.x(k).toFixed(1)} ${samples.y(k).toFixed(1)}`;
        open = true;
      }
    }
    return path;
  }, [samples, first, end]);
  return (
    <path
      d={d}
      transform={`translate(${pane.shiftX} ${pane.shiftY}) scale(${pane.scaleX} ${pane.scaleY})`}
      fill="none"
      stroke={colour}
      strokeOpacity={faint ? 0.35 : 0.75}
      strokeWidth={1.25}
      vectorEffect="non-scaling-stroke"
      pointerEvents="none"
    />
  );
}
