import type { TrackView } from '@lurn/contract';
import { useState } from 'react';
import { useDocument } from '../../state/document';
import { usePlayhead } from '../../state/playhead';
import { useSelection } from '../../state/selection';
import type { ShownTrack } from '../crowd';
import type { PaneGeometry } from '../panes';
import { Box, type Aim } from './box';
import { Crowd } from './crowd-paths';
import { shownTracks } from './shown-tracks';

/** Of more boxes than this only the selected one bears its name, and the one under the pointer. */
const mostNamed = 12;
/** More boxes than this are drawn together. */
const mostApart = 24;

/** Boxes over the source picture. */
export function Boxes({ pane, onAim }: { pane: PaneGeometry; onAim: (aim: Aim | null) => void }) {
  const tracks = useDocument((s) => s.tracks);
  const samples = useDocument((s) => s.samples);
  const selected = useSelection((s) => s.selected);
  const chosen = useSelection((s) => s.chosen);
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  const rise = ({ id }: TrackView): number => Number(id === selected) + Number(chosen.has(id));
  const [hovered, setHovered] = useState<string | null>(null);
  const points = shownTracks(tracks, samples).filter(({ track }) => !track.region);
  const ordered = points.sort((a, b) => rise(a.track) - rise(b.track));
  const many = ordered.length > mostApart;
  const isApart = ({ track: { id } }: ShownTrack): boolean => !many || id === selected || id === hovered;
  return (
    <g>
      {many && (
        <Crowd
          shown={ordered.filter((one) => !isApart(one))}
          chosen={chosen}
          frame={frame}
          pane={pane}
          onHover={setHovered}
        />
      )}
      {ordered.filter(isApart).map(({ track, own }) => (
        <Box
          key={track.id}
          pane={pane}
          track={track}
          sample={own.get(frame)}
          frame={frame}
          selected={track.id === selected}
          chosen={chosen.has(track.id)}
          named={track.id === selected || track.id === hovered || tracks.length <= mostNamed}
          onAim={onAim}
        />
      ))}
    </g>
  );
}
