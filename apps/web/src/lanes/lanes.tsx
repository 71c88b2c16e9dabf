import type { FrameTimes } from '@lurn/core';
import { useEffect, useRef, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react';
import { frameAtShare, middleShareOf, shareOf, timesOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { useSelection } from '../state/selection';
import { changeSteady } from '../state/steadying';
import { usePlayhead } from '../state/playhead';
import { pointedAt } from '../state/selection';
import { chooseTrack } from '../state/track-edits';
import { LongList } from '../ui/long-list';
import { trackColour } from '../ui/track-colour';
import { Curves } from './curves';
import { drawLane } from './lane-canvas';

const labelWidth = 148;

/** Time from left to right: ruler with the range, a lane a track, and the motion's curves. */
export function Lanes() {
  const clip = useDocument((s) => s.clip);
  const tracks = useDocument((s) => s.tracks);
  const selected = useSelection((s) => s.selected);
  if (!clip) return null;
  return (
    <div className="@container relative flex h-full flex-col bg-base-200" data-testid="lanes">
      <Row
        label={
          <span className="font-mono text-[11px] text-base-content/60">
            {clip.frames === 1 ? '1 frame' : `${clip.frames} frames`}
          </span>
        }
        className="h-7"
      >
        <Ruler times={timesOf(clip)} />
      </Row>
      {/* A scrollbar takes the margin's place: frames stay below their marks on the ruler. */}
      <LongList
        rows={tracks}
        rowHeight={24}
        selected={selected}
        label="Lanes"
        className="max-h-24 min-h-0 shrink-0 overflow-x-hidden [scrollbar-width:thin]"
      >
        {({ id }) => <Lane id={id} times={timesOf(clip)} />}
      </LongList>
      <Row className="min-h-0 flex-1" label={<Legend />}>
        <div className="h-full px-0 py-1.5">
          <Curves />
        </div>
      </Row>
      <Cursor times={timesOf(clip)} />
    </div>
  );
}

function Row({
  label,
  children,
  className = '',
}: {
  label: ReactNode;
  children: ReactNode;
  className?: string;
}) {
  return (
    <div className={`flex border-b border-base-300/70 ${className}`}>
      <div className="flex shrink-0 items-center border-r border-base-300 px-3" style={{ width: labelWidth }}>
        {label}
      </div>
      <div className="relative mr-3 min-w-0 flex-1">{children}</div>
    </div>
  );
}

function Legend() {
  return (
    <ul className="space-y-1 text-[11px] text-base-content/70">
      <li className="flex items-center gap-2">
        <span className="h-0.5 w-5 bg-secondary" /> as found
      </li>
      <li className="flex items-center gap-2">
        <span className="h-[3px] w-5 bg-primary" /> as it will be
      </li>
    </ul>
  );
}

function frameUnder(event: PointerEvent<HTMLElement>, times: FrameTimes): number {
  const { left, width } = event.currentTarget.getBoundingClientRect();
  return frameAtShare(times, (event.clientX - left) / width);
}

const percentOf = (share: number): string => `${100 * share}%`;

function Ruler({ times }: { times: FrameTimes }) {
  const { frames } = times;
  const range = useDocument((s) => s.steady?.range) ?? { first: 0, last: frames - 1 };
  const reference = useDocument((s) => s.steady?.referenceFrame ?? 0);
  const step =
    [1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000, 2000, 5000, 10000].find((s) => frames / s <= 14) ??
    20000;
  const even = Array.from({ length: Math.ceil(frames / step) }, (_, i) => i * step);
  const marks = even.filter(apart(times));
  const scrub = (event: PointerEvent<HTMLDivElement>): void => {
    if (event.buttons === 1) go(frameUnder(event, times));
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.key === 'Home') go(0);
    if (event.key === 'End') go(frames - 1);
  };
  return (
    <div
      className="relative h-full cursor-pointer touch-none"
      role="slider"
      tabIndex={0}
      aria-label="Frame"
      aria-valuemin={0}
      aria-valuemax={frames - 1}
      aria-valuenow={Math.max(0, usePlayhead.getState().frame)}
      data-testid="ruler"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        scrub(event);
      }}
      onPointerMove={scrub}
      onKeyDown={onKeyDown}
    >
      <div
        className="absolute inset-y-0 bg-primary/15"
        style={{
          left: percentOf(shareOf(times, range.first)),
          right: percentOf(1 - shareOf(times, range.last + 1)),
        }}
      />
      {marks.map((frame) => (
        <span
          key={frame}
          className="absolute bottom-0 h-2.5 border-l border-base-content/30 pl-1 font-mono text-[10px] leading-none text-base-content/60"
          style={{ left: percentOf(shareOf(times, frame)) }}
        >
          <span className="absolute -top-2.5">{frame}</span>
        </span>
      ))}
      <span
        className="absolute bottom-0 -translate-x-1/2 text-[9px] font-semibold text-primary"
        style={{ left: percentOf(middleShareOf(times, reference)) }}
        title={`Reference frame ${reference}`}
      >
        R
      </span>
      <RangeEnd edge="first" times={times} />
      <RangeEnd edge="last" times={times} />
    </div>
  );
}

/** Keeps of some frames, in order, those that leave room for a number before the next. */
function apart(times: FrameTimes): (frame: number) => boolean {
  let last = -1;
  return (frame) => {
    const share = shareOf(times, frame);
    if (last >= 0 && share - last < 0.04) return false;
    last = share;
    return true;
  };
}

function RangeEnd({ edge, times }: { edge: 'first' | 'last'; times: FrameTimes }) {
  const { frames } = times;
  const range = useDocument((s) => s.steady?.range) ?? { first: 0, last: frames - 1 };
  const at = edge === 'first' ? range.first : range.last + 1;
  const move = (frame: number): void => {
    const next =
      edge === 'first'
        ? Math.min(Math.max(frame, 0), range.last)
        : Math.min(Math.max(frame, range.first), frames - 1);
    if (next !== range[edge]) changeSteady({ range: { ...range, [edge]: next } }, 'Range');
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={edge === 'first' ? 'First frame of the range' : 'Last frame of the range'}
      aria-valuemin={0}
      aria-valuemax={frames - 1}
      aria-valuenow={range[edge]}
      className="absolute inset-y-0 w-2.5 cursor-ew-resize touch-none outline-none focus-visible:bg-primary/40"
      style={{ left: `calc(${percentOf(shareOf(times, at))} - ${edge === 'first' ? 0 : 10}px)` }}
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        event.stopPropagation();
        if (event.buttons !== 1) return;
        const ruler = (event.currentTarget.parentElement as HTMLElement).getBoundingClientRect();
        const share = (event.clientX - ruler.left) / ruler.width;
        const under = frameAtShare(times, share);
        // An end goes to the nearer side of the frame under the pointer.
        const beyond = share > middleShareOf(times, under) ? 1 : 0;
        move(under + beyond - (edge === 'first' ? 0 : 1));
      }}
      onKeyDown={(event) => {
        if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return;
        event.stopPropagation();
        move(range[edge] + (event.key === 'ArrowLeft' ? -1 : 1));
      }}
    >
      <div className={`h-full w-[3px] bg-primary ${edge === 'last' ? 'ml-auto rounded-r' : 'rounded-l'}`} />
    </div>
  );
}

function Lane({ id, times }: { id: string; times: FrameTimes }) {
  const track = useDocument((s) => s.tracks.find((t) => t.id === id));
  const samples = useDocument((s) => s.samples.get(id));
  const chosen = useSelection((s) => s.chosen.has(id));
  const canvas = useRef<HTMLCanvasElement>(null);
  const colour = trackColour(track?.position ?? 0);
  useEffect(() => {
    const element = canvas.current;
    if (!element || !samples) return;
    const resized = new ResizeObserver(() => drawLane(element, samples, times, colour));
    resized.observe(element);
    return () => resized.disconnect();
  }, [samples, times, colour]);
  if (!track || !samples) return null;
  return (
    <Row
      className={`h-6 w-[100cqw] ${chosen ? 'bg-base-100' : ''}`}
      label={
        <button
          className="flex min-w-0 items-center gap-2 text-left"
          aria-pressed={chosen}
          onClick={(event) => chooseTrack(id, pointedAt(event))}
        >
          <span className="size-2 shrink-0 rounded-full" style={{ background: colour }} />
          <span className={`truncate ${track.used ? '' : 'line-through opacity-60'}`}>{track.name}</span>
        </button>
      }
    >
      <canvas
        ref={canvas}
        className="h-full w-full cursor-pointer"
        aria-label={`Lane of ${track.name}`}
        onPointerDown={(event) => {
          chooseTrack(id, pointedAt(event));
          go(frameUnder(event, times));
        }}
      />
    </Row>
  );
}

/** The playhead's line over all lanes; moved without drawing the page anew. */
function Cursor({ times }: { times: FrameTimes }) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const move = ({ frame }: { frame: number }): void => {
      line.current?.style.setProperty(
        'left',
        `calc(${labelWidth}px + (100% - ${labelWidth + 12}px) * ${middleShareOf(times, frame)})`,
      );
      const ruler = line.current?.parentElement?.querySelector('[data-testid=ruler]');
      ruler?.setAttribute('aria-valuenow', String(frame));
    };
    move(usePlayhead.getState());
    return usePlayhead.subscribe(move);
  }, [times]);
  return (
    <div ref={line} className="pointer-events-none absolute inset-y-0 w-px bg-base-content">
      <div className="absolute top-0 -left-[4.5px] h-2.5 w-2.5 rounded-b-full bg-base-content" />
    </div>
  );
}
