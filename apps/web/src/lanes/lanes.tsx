import { SampleState, type FrameTimes } from '@lurn/core';
import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { ActionContextMenu } from '../actions/action-menu';
import { trackMenu } from '../panels/tracks-panel';
import { middleShareOf, timesOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { pointedAt, useSelection } from '../state/selection';
import { inWindow, useTimeWindow } from '../state/time-window';
import { chooseTrack, moveKey } from '../state/track-edits';
import type { TrackSamples } from '../state/track-samples';
import { useView } from '../state/view';
import { LongList } from '../ui/long-list';
import { trackColour } from '../ui/track-colour';
import { drawLane } from './lane-canvas';
import { LayerLanes } from './layer-lanes';
import { SceneLane } from './scene-lane';
import { MotionCurves } from './motion-curves';
import { SteadyLane } from './steady-lane';
import { Cursor, frameUnder, Row, Ruler, SpanMark, useTimeWheel } from './timeline';

const laneMenu = [
  'follow-span',
  'smooth-span',
  'fill-linear',
  'fill-smooth',
  'clear-span',
  null,
  ...trackMenu,
];

/** Time from left to right: ruler with the range, a lane a track, and the motion's curves. */
export function Lanes() {
  const clip = useDocument((s) => s.clip);
  const tracks = useDocument((s) => s.tracks);
  const selected = useSelection((s) => s.selected);
  const host = useRef<HTMLDivElement>(null);
  useTimeWheel(host, { scrolls: true });
  if (!clip) return null;
  return (
    <div ref={host} className="@container relative flex h-full flex-col bg-base-200" data-testid="lanes">
      <Row
        label={
          <span className="font-mono text-[11px] text-base-content/70">
            {clip.frames === 1 ? '1 frame' : `${clip.frames} frames`}
          </span>
        }
        className="h-7 shrink-0"
      >
        <Ruler times={timesOf(clip)} />
      </Row>
      <SceneLane times={timesOf(clip)} />
      <SteadyLane times={timesOf(clip)} />
      <LayerLanes times={timesOf(clip)} />
      {/* A scrollbar takes the margin's place: frames stay below their marks on the ruler. */}
      <ActionContextMenu items={laneMenu}>
        <div className="flex max-h-[62%] min-h-0 shrink-0 flex-col">
          <LongList
            rows={tracks}
            rowHeight={24}
            selected={selected}
            label="Lanes"
            className="min-h-0 overflow-x-hidden [scrollbar-width:thin]"
          >
            {({ id }) => <Lane id={id} times={timesOf(clip)} />}
          </LongList>
        </div>
      </ActionContextMenu>
      <Row className="min-h-0 flex-1" label={<Legend />}>
        <div className="h-full px-0 py-1.5">
          <MotionCurves />
        </div>
      </Row>
      <SpanMark times={timesOf(clip)} />
      <Cursor times={timesOf(clip)} />
    </div>
  );
}

function Legend() {
  return (
    <ul className="space-y-1 text-[11px] text-base-content/75">
      <li className="flex items-center gap-2">
        <span className="h-0.5 w-5 bg-secondary" /> as found
      </li>
      <li className="flex items-center gap-2">
        <span className="h-[3px] w-5 bg-primary" /> as it will be
      </li>
      <li className="flex items-center gap-2">
        <span className="h-2.5 w-5 bg-primary/15" /> no bare edge
      </li>
    </ul>
  );
}

/** Pixels: a key can be grasped from so near, and a press that moves farther is a drag. */
const keyReach = 6;
const dragFrom = 4;

/** A key that lies near enough to a place of the lane; null where none does. */
function keyNear(
  samples: TrackSamples,
  times: FrameTimes,
  canvas: HTMLElement,
  clientX: number,
): number | null {
  const { left, width } = canvas.getBoundingClientRect();
  const window = useTimeWindow.getState();
  let nearest: number | null = null;
  let least = keyReach;
  for (const key of samples.keys()) {
    const off = Math.abs(left + width * inWindow(window, middleShareOf(times, key)) - clientX);
    if (off <= least) [nearest, least] = [key, off];
  }
  return nearest;
}

type Press = { x: number; frame: number; key: number | null; dragged: boolean };

function Lane({ id, times }: { id: string; times: FrameTimes }) {
  const track = useDocument((s) => s.tracks.find((t) => t.id === id));
  const samples = useDocument((s) => s.samples.get(id));
  const chosen = useSelection((s) => s.chosen.has(id));
  const window = useTimeWindow();
  const canvas = useRef<HTMLCanvasElement>(null);
  const press = useRef<Press | null>(null);
  const [movedTo, setMovedTo] = useState<number | null>(null);
  const colour = trackColour(track?.position ?? 0);
  const words = useMemo(() => (samples ? inWords(samples) : ''), [samples]);
  useEffect(() => {
    const element = canvas.current;
    if (!element || !samples) return;
    const resized = new ResizeObserver(() => drawLane(element, samples, times, window, colour));
    resized.observe(element);
    return () => resized.disconnect();
  }, [samples, times, window, colour]);
  if (!track || !samples) return null;

  const down = (event: PointerEvent<HTMLCanvasElement>): void => {
    if (event.button !== 0) {
      if (!chosen) chooseTrack(id);
      return;
    }
    event.currentTarget.setPointerCapture(event.pointerId);
    const key = track.locked ? null : keyNear(samples, times, event.currentTarget, event.clientX);
    press.current = {
      x: event.clientX,
      frame: frameUnder(event, event.currentTarget, times),
      key,
      dragged: false,
    };
  };
  const move = (event: PointerEvent<HTMLCanvasElement>): void => {
    const { current } = press;
    if (!current) {
      const over = !track.locked && keyNear(samples, times, event.currentTarget, event.clientX) !== null;
      event.currentTarget.style.cursor = over ? 'ew-resize' : 'pointer';
      return;
    }
    if (Math.abs(event.clientX - current.x) > dragFrom && !current.dragged) {
      current.dragged = true;
      if (!chosen) chooseTrack(id);
    }
    if (!current.dragged) return;
    const frame = frameUnder(event, event.currentTarget, times);
    if (current.key !== null) setMovedTo(frame);
    else
      useView.setState({
        span: { first: Math.min(current.frame, frame), last: Math.max(current.frame, frame) },
      });
  };
  const up = (event: PointerEvent<HTMLCanvasElement>): void => {
    const { current } = press;
    press.current = null;
    setMovedTo(null);
    if (!current) return;
    if (!current.dragged) {
      chooseTrack(id, pointedAt(event));
      useView.setState({ span: null });
      go(current.key ?? current.frame);
    } else if (current.key !== null && movedTo !== null && movedTo !== current.key)
      void moveKey(id, current.key, movedTo);
  };
  return (
    <Row
      className={`h-6 w-[100cqw] ${chosen ? 'bg-base-100' : ''}`}
      label={
        <button
          className="flex min-w-0 items-center gap-2 text-left"
          aria-pressed={chosen}
          onClick={(event) => chooseTrack(id, pointedAt(event))}
          onContextMenu={() => !chosen && chooseTrack(id)}
        >
          <span className="size-2 shrink-0 rounded-full" style={{ background: colour }} />
          <span className={`truncate ${track.used ? '' : 'line-through opacity-70'}`}>{track.name}</span>
        </button>
      }
    >
      <canvas
        ref={canvas}
        className="h-full w-full touch-none"
        role="img"
        aria-label={`Lane of ${track.name}: ${words}`}
        data-testid="lane"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => {
          press.current = null;
          setMovedTo(null);
        }}
      />
      {movedTo !== null && (
        <span
          className="pointer-events-none absolute top-1/2 size-2.5 -translate-x-1/2 -translate-y-1/2 rotate-45 border border-base-content"
          style={{ left: `${100 * inWindow(window, middleShareOf(times, movedTo))}%` }}
        />
      )}
    </Row>
  );
}

/** What a lane shows, for those who do not see it. */
function inWords(samples: TrackSamples): string {
  let [found, lost] = [0, 0];
  for (let k = 0; k < samples.frames; k++) {
    if (samples.found(k)) found++;
    else if (samples.state(k) === SampleState.lost) lost++;
  }
  return `found on ${found} of ${samples.frames} frames, lost on ${lost}`;
}
