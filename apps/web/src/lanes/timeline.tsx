import { startOf, type FrameTimes } from '@lurn/core';
import {
  useEffect,
  useRef,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
  type RefObject,
} from 'react';
import { frameAtShare, middleShareOf, shareOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { changeSteady } from '../state/steadying';
import { fromWindow, inWindow, panTime, useTimeWindow, windowWith, zoomTime } from '../state/time-window';
import { useView } from '../state/view';

export const labelWidth = 148;
/** Right of the frames, where scroll bars are. */
const margin = 12;

/** A row with its name at the left, and time beside it. */
export function Row({
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
      <div className="relative mr-3 min-w-0 flex-1 overflow-hidden">{children}</div>
    </div>
  );
}

/** The frame under the pointer in something that shows the window of time from edge to edge. */
export function frameUnder(event: { clientX: number }, element: Element, times: FrameTimes): number {
  const { left, width } = element.getBoundingClientRect();
  return frameAtShare(times, fromWindow(useTimeWindow.getState(), (event.clientX - left) / width));
}

/** So few frames fill the window at the closest. */
const fewestFrames = 10;

/**
 * Has the wheel zoom time, about the pointer, and with Shift move it. Where the wheel scrolls a list it does so with Ctrl or
 * Command alone.
 */
export function useTimeWheel(
  element: RefObject<HTMLElement | null>,
  { scrolls }: { scrolls: boolean },
): void {
  useEffect(() => {
    const host = element.current;
    if (!host) return;
    const onWheel = (event: WheelEvent): void => {
      const along = event.shiftKey ? event.deltaY || event.deltaX : event.deltaX;
      if (event.altKey) return;
      if (event.shiftKey || (Math.abs(event.deltaX) > Math.abs(event.deltaY) && !event.ctrlKey)) {
        useTimeWindow.setState((window) => panTime(window, along / host.clientWidth));
      } else if (!scrolls || event.ctrlKey || event.metaKey) {
        const { left, width } = host.getBoundingClientRect();
        const inner = width - labelWidth - margin;
        const at = Math.min(Math.max((event.clientX - left - labelWidth) / inner, 0), 1);
        const frames = useDocument.getState().clip?.frames ?? 1;
        useTimeWindow.setState((window) =>
          zoomTime(window, at, Math.exp(-event.deltaY / 300), fewestFrames / Math.max(frames, fewestFrames)),
        );
      } else return;
      event.preventDefault();
    };
    host.addEventListener('wheel', onWheel, { passive: false });
    return () => host.removeEventListener('wheel', onWheel);
  }, [element, scrolls]);
}

const percentOf = (share: number): string => `${100 * share}%`;

const stepsOfMarks = [1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000, 2000, 5000, 10000];
const mostMarks = 14;

/** Frame numbers, the range, the reference frame; the way to any frame. */
export function Ruler({ times }: { times: FrameTimes }) {
  const { frames } = times;
  const window = useTimeWindow();
  const range = useDocument((s) => s.steady?.range) ?? { first: 0, last: frames - 1 };
  const reference = useDocument((s) => s.steady?.referenceFrame ?? 0);
  const from = frameAtShare(times, window.from);
  const to = frameAtShare(times, window.to);
  const step = stepsOfMarks.find((s) => (to - from + 1) / s <= mostMarks) ?? 20000;
  const at = (share: number): number => inWindow(window, share);
  const even = Array.from(
    { length: Math.floor(to / step) - Math.ceil(from / step) + 1 },
    (_, i) => (Math.ceil(from / step) + i) * step,
  );
  const marks = even.filter(apart((frame) => at(shareOf(times, frame))));
  const scrub = (event: PointerEvent<HTMLDivElement>): void => {
    if (event.buttons === 1) go(frameUnder(event, event.currentTarget, times));
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const { frame } = usePlayhead.getState();
    const to = { Home: 0, End: frames - 1, ArrowLeft: frame - 1, ArrowRight: frame + 1 }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    go(to);
  };
  return (
    <div className="relative h-full">
      <div
        className="absolute inset-0 cursor-pointer touch-none select-none outline-none focus-visible:bg-base-300/60"
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
            left: percentOf(at(shareOf(times, range.first))),
            right: percentOf(1 - at(shareOf(times, range.last + 1))),
          }}
        />
        {marks.map((frame) => (
          <span
            key={frame}
            className="absolute bottom-0 h-2.5 border-l border-base-content/30 pl-1 font-mono text-[10px] leading-none text-base-content/70"
            style={{ left: percentOf(at(shareOf(times, frame))) }}
          >
            <span className="absolute -top-2.5">{frame}</span>
          </span>
        ))}
        <span
          className="absolute bottom-0 -translate-x-1/2 text-[9px] font-semibold text-primary"
          style={{ left: percentOf(at(middleShareOf(times, reference))) }}
          title={`Reference frame ${reference}`}
        >
          R
        </span>
      </div>
      <RangeEnd edge="first" times={times} />
      <RangeEnd edge="last" times={times} />
    </div>
  );
}

/** Keeps of some frames, in order, those that leave room for a number before the next. */
function apart(place: (frame: number) => number): (frame: number) => boolean {
  let last = -1;
  return (frame) => {
    const share = place(frame);
    if (last >= 0 && share - last < 0.04) return false;
    last = share;
    return true;
  };
}

function RangeEnd({ edge, times }: { edge: 'first' | 'last'; times: FrameTimes }) {
  const { frames } = times;
  const window = useTimeWindow();
  const range = useDocument((s) => s.steady?.range) ?? { first: 0, last: frames - 1 };
  const at = inWindow(window, shareOf(times, edge === 'first' ? range.first : range.last + 1));
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
      style={{ left: `calc(${percentOf(at)} - ${edge === 'first' ? 0 : 10}px)` }}
      onPointerDown={(event) => {
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => {
        event.stopPropagation();
        if (event.buttons !== 1) return;
        const ruler = (event.currentTarget.parentElement as HTMLElement).getBoundingClientRect();
        const share = fromWindow(window, (event.clientX - ruler.left) / ruler.width);
        const under = frameAtShare(times, share);
        // An end goes to the nearer side of the frame under the pointer.
        const beyond = share > middleShareOf(times, under) ? 1 : 0;
        move(under + beyond - (edge === 'first' ? 0 : 1));
      }}
      onKeyDown={(event) => {
        if (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight') return;
        event.stopPropagation();
        event.preventDefault();
        move(range[edge] + (event.key === 'ArrowLeft' ? -1 : 1));
      }}
    >
      <div className={`h-full w-[3px] bg-primary ${edge === 'last' ? 'ml-auto rounded-r' : 'rounded-l'}`} />
    </div>
  );
}

/** Where a place of the window lies in the rows, left edge to right edge. */
const across = (at: number): string => `calc(${labelWidth}px + (100% - ${labelWidth + margin}px) * ${at})`;

/** The playhead's line over all rows; moved without drawing the page anew. Time that is zoomed goes along with it. */
export function Cursor({ times }: { times: FrameTimes }) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let last = -1;
    const move = (): void => {
      const { frame } = usePlayhead.getState();
      const share = middleShareOf(times, frame);
      if (frame !== last && last >= 0) useTimeWindow.setState((window) => windowWith(window, share));
      last = frame;
      const at = inWindow(useTimeWindow.getState(), share);
      const { current } = line;
      if (!current) return;
      current.hidden = at < 0 || at > 1;
      current.style.setProperty('left', across(at));
      const ruler = current.parentElement?.querySelector('[data-testid=ruler]');
      ruler?.setAttribute('aria-valuenow', String(frame));
      ruler?.setAttribute('aria-valuetext', `Frame ${frame}, ${startOf(times, frame).toFixed(2)} seconds`);
    };
    move();
    const stops = [usePlayhead.subscribe(move), useTimeWindow.subscribe(move)];
    return () => stops.forEach((stop) => stop());
  }, [times]);
  return (
    <div ref={line} className="pointer-events-none absolute inset-y-0 w-px bg-base-content">
      <div className="absolute top-0 -left-[4.5px] h-2.5 w-2.5 rounded-b-full bg-base-content" />
    </div>
  );
}

/** The chosen span over all rows. */
export function SpanMark({ times }: { times: FrameTimes }) {
  const span = useView((s) => s.span);
  const window = useTimeWindow();
  if (!span) return null;
  const [from, to] = [shareOf(times, span.first), shareOf(times, span.last + 1)].map((share) =>
    Math.min(Math.max(inWindow(window, share), 0), 1),
  );
  return (
    <div
      className="pointer-events-none absolute top-7 bottom-0 border-x border-accent bg-accent/15"
      style={{ left: across(from), width: `calc((100% - ${labelWidth + margin}px) * ${to - from})` }}
      data-testid="span"
    />
  );
}
