import {
  apply,
  cornerKnot,
  invert,
  multiply,
  outlineAt,
  transformSpline,
  type Mat3,
  type Point,
} from '@lurn/core';
import { useState } from 'react';
import { useDocument } from '../../state/document';
import { usePlayhead } from '../../state/playhead';
import {
  changeRegion,
  holdOutHere,
  holdOutsWith,
  isRegion,
  matrixOf,
  outlinesWith,
  putRight,
  quadWith,
  showRegion,
  useRegions,
  type RegionTrack,
} from '../../state/regions';
import { useSelection } from '../../state/selection';
import { chooseTrack } from '../../state/track-edits';
import { useWorkspace } from '../../state/workspace';
import { useView } from '../../state/view';
import { trackColour } from '../../ui/track-colour';
import { usePaneFromFrame } from '../pane-frames';
import type { PaneGeometry } from '../panes';
import { Handle } from './handle';
import { LeftOut } from './left-out';
import { QuadSquares } from './quad-squares';
import { SplineHandles, splinePath } from './spline';

const cornerNames = ['upper left', 'upper right', 'lower right', 'lower left'];

/** Flat areas that are followed: where they are looked for, what never counts, and the quad; the selected one has handles. */
export function Regions({ pane }: { pane: PaneGeometry }) {
  const tracks = useDocument((s) => s.tracks);
  // Their places are read from the samples when they change.
  useDocument((s) => s.samples);
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  const placed = usePaneFromFrame(pane.kind, frame);
  const paints = useView((s) => s.tool === 'brush');
  // Who paints looks at the picture.
  if (!placed || paints) return null;
  const placement = pane.kind === 'source' ? null : placed;
  return (
    <g data-testid={`regions-${pane.kind}`}>
      {tracks.map((track) => {
        const matrix = isRegion(track) && !track.hidden ? matrixOf(track, frame) : null;
        return (
          isRegion(track) &&
          matrix && (
            <Region
              key={track.id}
              pane={pane}
              track={track}
              frame={frame}
              matrix={matrix}
              placement={placement}
            />
          )
        );
      })}
    </g>
  );
}

interface RegionProps {
  pane: PaneGeometry;
  track: RegionTrack;
  frame: number;
  /** To the clip's picture from the frame that it was drawn on; and from there to the pane's, where that is another. */
  matrix: Mat3;
  placement: Mat3 | null;
}

function Region({ pane, track, frame, matrix, placement }: RegionProps) {
  const selected = useSelection((s) => s.selected === track.id);
  const tool = useView((s) => s.tool);
  const { corners, checked, showsLeftOut } = useRegions();
  const [held, setHeld] = useState<{ corner: number; at: Point } | null>(null);
  const { region } = track;
  const colour = trackColour(track.position);
  const shown = placement ? multiply(placement, matrix) : matrix;
  const seen = ({ x, y }: Point): Point => (placement ? apply(placement, x, y) : { x, y });
  const onClip = ({ x, y }: Point): Point => (placement ? apply(invert(placement), x, y) : { x, y });
  const here = outlineAt(region.outlines, frame);
  const lost = useDocument((s) => !(s.samples.get(track.id)?.found(frame) ?? false));
  const quad = region.quad.map((p, i) => (held?.corner === i ? held.at : apply(shown, p.x, p.y)));
  const step = useWorkspace((s) => s.step);
  const isHeld = selected && !track.locked && tool === 'move' && step !== 'dress';
  const moveCorner = (corner: number, to: Point, done: boolean): void => {
    if (corners === 'lay') {
      const patch = quadWith(track, shown, corner, to);
      if (done) void changeRegion(track, patch);
      else showRegion(track, patch);
      return;
    }
    setHeld(done ? null : { corner, at: to });
    if (done) void putRight(track, matrix, corner, onClip(to), frame);
  };
  return (
    <g data-testid="region" data-track={track.name} data-state={lost ? 'lost' : 'found'}>
      {selected && showsLeftOut && (
        <LeftOut pane={pane} trackId={track.id} frame={frame} placement={placement} place={matrix.join()} />
      )}
      {selected && checked && <QuadSquares pane={pane} quad={quad} colour={colour} />}
      {here.splines.map((spline, part) => {
        const drawn = transformSpline(spline, shown);
        return (
          <g key={part}>
            <path
              d={splinePath(pane, drawn)}
              fill={colour}
              fillOpacity={selected ? 0.07 : 0.03}
              stroke={colour}
              strokeOpacity={selected ? 0.9 : 0.55}
              strokeWidth={selected ? 1.75 : 1.25}
              strokeDasharray={lost ? '3 4' : undefined}
              pointerEvents={tool === 'move' ? 'stroke' : 'none'}
              className="cursor-pointer"
              onPointerDown={() => chooseTrack(track.id)}
            >
              <title>{track.name}</title>
            </path>
            {isHeld && (
              <SplineHandles
                pane={pane}
                spline={drawn}
                colour={colour}
                onChange={(next, done) => {
                  const patch = outlinesWith(track, frame, part, transformSpline(next, invert(shown)));
                  if (done) void changeRegion(track, patch);
                  else showRegion(track, patch);
                }}
              />
            )}
          </g>
        );
      })}
      {selected &&
        region.holdOuts.map((holdOut, i) => {
          const here = holdOutHere(holdOut, frame);
          const drawn = placement ? transformSpline(here, placement) : here;
          return (
            <g key={`hold-out ${i}`}>
              <path
                d={splinePath(pane, drawn)}
                fill="url(#keep-out)"
                stroke="#ef7a63"
                strokeWidth={1.5}
                pointerEvents="none"
                data-testid="region-hold-out"
              />
              {isHeld && (
                <SplineHandles
                  pane={pane}
                  spline={drawn}
                  colour="#ef7a63"
                  onChange={(next, done) => {
                    const back = placement ? transformSpline(next, invert(placement)) : next;
                    const patch = holdOutsWith(track, i, frame, back);
                    if (done) void changeRegion(track, patch);
                    else showRegion(track, patch);
                  }}
                />
              )}
            </g>
          );
        })}
      <path
        d={splinePath(pane, { knots: quad.map(cornerKnot) })}
        fill="none"
        stroke="#f4efe2"
        strokeOpacity={selected ? 0.95 : 0.4}
        strokeWidth={1.25}
        pointerEvents="none"
      />
      {isHeld &&
        region.quad.map((p, i) => (
          <Handle
            key={`corner ${i}`}
            pane={pane}
            at={held?.corner === i ? held.at : seen(apply(matrix, p.x, p.y))}
            label={`Corner ${cornerNames[i]} of ${track.name}: ${corners === 'lay' ? 'lays the quad' : 'puts it right on this frame'}`}
            shape={corners === 'lay' ? 'hollow' : 'round'}
            colour={corners === 'lay' ? '#f4efe2' : '#ffb454'}
            testId="quad-corner"
            onMove={(to, done) => moveCorner(i, to, done)}
          />
        ))}
    </g>
  );
}
