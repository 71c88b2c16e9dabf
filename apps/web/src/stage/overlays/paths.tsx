import { useMemo } from 'react';
import { useDocument } from '../../state/document';
import { useSelection } from '../../state/selection';
import type { TrackSamples } from '../../state/track-samples';
import { trackColour } from '../../ui/track-colour';
import type { PaneGeometry } from '../panes';
import { shownTracks } from './shown-tracks';

/** Paths over the source picture: painted by themselves, as boxes move without them. */
export function Paths({ pane }: { pane: PaneGeometry }) {
  const tracks = useDocument((s) => s.tracks);
  const samples = useDocument((s) => s.samples);
  const chosen = useSelection((s) => s.chosen);
  return (
    <g>
      {shownTracks(tracks, samples).map(({ track, own }) => (
        <PathLine
          key={track.id}
          pane={pane}
          samples={own}
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
  colour,
  faint,
}: {
  pane: PaneGeometry;
  samples: TrackSamples;
  colour: string;
  faint: boolean;
}) {
  const d = useMemo(() => {
    let path = '';
    let open = false;
    for (let k = 0; k < samples.frames; k++) {
      if (!samples.found(k)) open = false;
      else {
        path += `${open ? 'L' : 'M'}${samples.x(k).toFixed(1)} ${samples.y(k).toFixed(1)}`;
        open = true;
      }
    }
    return path;
  }, [samples]);
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
