import type { FrameTimes, Room, roomNames, SteadyResult } from '@lurn/core';
import { area, extent, line, scaleLinear } from 'd3';
import { useMemo, useRef } from 'react';
import { outline } from './outline';
import { frameAtShare, middleShareOf, timesOf } from '../state/clip-times';
import { putByHand } from '../state/by-hand';
import { useDocument } from '../state/document';
import { inWindow, useTimeWindow, type TimeWindow } from '../state/time-window';

interface Curve {
  name: string;
  /** What it is called where the room about it, and what is put by hand, is kept. */
  channel: (typeof roomNames)[number];
  unit: string;
  found: (result: SteadyResult) => ArrayLike<number>;
  intended: (result: SteadyResult) => ArrayLike<number>;
  /** From the core's unit to the one people read. */
  shown: (value: number) => number;
  /** The other way. */
  stored: (value: number) => number;
  least: number;
}

const degrees = (radians: number): number => (radians * 180) / Math.PI;
const radians = (angle: number): number => (angle * Math.PI) / 180;
const same = (value: number): number => value;

const curves: Curve[] = [
  {
    name: 'x',
    channel: 'x',
    unit: 'px',
    found: (r) => r.correction.found.x,
    intended: (r) => r.correction.intended.x,
    shown: same,
    stored: same,
    least: 4,
  },
  {
    name: 'y',
    channel: 'y',
    unit: 'px',
    found: (r) => r.correction.found.y,
    intended: (r) => r.correction.intended.y,
    shown: same,
    stored: same,
    least: 4,
  },
  {
    name: 'Rotation',
    channel: 'rotation',
    unit: '°',
    found: (r) => r.correction.found.rotation,
    intended: (r) => r.correction.intended.rotation,
    shown: degrees,
    stored: radians,
    least: 0.2,
  },
  {
    name: 'Scale',
    channel: 'scale',
    unit: '%',
    found: (r) => r.correction.found.scale,
    intended: (r) => r.correction.intended.scale,
    shown: (v) => 100 * v,
    stored: (v) => v / 100,
    least: 0.4,
  },
];

const size = { width: 1000, height: 100 };

/** The motion as it was found and as it will be, a chart for each parameter, all over the same frames. */
export function MotionCurves() {
  const result = useDocument((s) => s.result);
  const clip = useDocument((s) => s.clip);
  const window = useTimeWindow();
  if (!clip || !result || result.motion.support.every((n) => n === 0)) {
    return (
      <p className="flex h-full items-center justify-center text-base-content/70">
        The motion shows here once it has been found, or a point followed.
      </p>
    );
  }
  const turns = result.motion.model !== 'translation';
  return (
    <div className="flex h-full flex-col gap-1">
      {curves.slice(0, turns ? 4 : 2).map((curve) => (
        <Chart key={curve.name} curve={curve} result={result} times={timesOf(clip)} window={window} />
      ))}
    </div>
  );
}

const noRoom: { frames: number[]; rooms: Room[] } = { frames: [], rooms: [] };

/** The room about a result, once it has been worked out for it. */
function useRoom(result: SteadyResult) {
  const room = useDocument((s) => s.room);
  const last = room?.frames.at(-1);
  return room && last !== undefined && last < result.motion.frames ? room : noRoom;
}

function Chart({
  curve,
  result,
  times,
  window,
}: {
  curve: Curve;
  result: SteadyResult;
  times: FrameTimes;
  window: TimeWindow;
}) {
  const { found, intended, least, most, low, high } = useMemo(() => {
    const values = [curve.found(result), curve.intended(result)].map((all) =>
      Float64Array.from(all, curve.shown),
    );
    const [[from = 0, to = 0], [lowest = 0, highest = 0]] = values.map((all) => extent(all));
    return {
      ...{ found: values[0], intended: values[1], least: from, most: to },
      ...{ low: Math.min(from, lowest), high: Math.max(to, highest) },
    };
  }, [curve, result]);
  const pad = Math.max((curve.least - (high - low)) / 2, (high - low) * 0.08, 1e-6);
  const y = scaleLinear([low - pad, high + pad], [size.height, 0]);
  const room = useRoom(result);
  const drawn = line<number>((k) => size.width * inWindow(window, middleShareOf(times, k)));
  const [from, to] = [window.from, window.to].map((share) => frameAtShare(times, share));
  const path = (values: Float64Array): string | null =>
    drawn.y((k) => y(values[k]))(outline(values, size.width, from, to));
  const bandOf = area<number>((i) => size.width * inWindow(window, middleShareOf(times, room.frames[i])))
    .y0((i) => y(edgeOf(i, 0)))
    .y1((i) => y(edgeOf(i, 1)));
  /** What the curve may come to on a frame without a bare edge, as it is shown. */
  const edgeOf = (i: number, end: 0 | 1): number => {
    const by = room.rooms[i][curve.channel][end];
    const now = curve.intended(result)[room.frames[i]];
    return curve.shown(curve.channel === 'scale' ? now * by : now + by);
  };
  const band = room.frames.at(-1) === undefined ? null : bandOf(room.frames.map((_, i) => i));
  return (
    <figure className="relative min-h-0 flex-1">
      <svg
        viewBox={`0 0 ${size.width} ${size.height}`}
        preserveAspectRatio="none"
        className="h-full w-full overflow-hidden"
        aria-label={`${curve.name} over time`}
        role="img"
      >
        <line
          x1={0}
          x2={size.width}
          y1={y(curve.name === 'Scale' ? 100 : 0)}
          y2={y(curve.name === 'Scale' ? 100 : 0)}
          className="stroke-base-content/15"
          vectorEffect="non-scaling-stroke"
        />
        <path d={band ?? ''} className="fill-primary/12" data-testid="room" />
        <path
          d={path(found) ?? ''}
          fill="none"
          className="stroke-secondary"
          strokeWidth={1.3}
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={path(intended) ?? ''}
          fill="none"
          className="stroke-primary"
          strokeWidth={1.8}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <HandKeys curve={curve} result={result} times={times} window={window} y={y} />
      <figcaption className="pointer-events-none absolute top-0 left-1 rounded bg-base-200/85 px-1 text-[10.5px] leading-[15px] text-base-content/80">
        {curve.name}{' '}
        <span className="font-mono">
          {(most - least).toFixed(curve.unit === 'px' ? 0 : 2)}
          {curve.unit === '°' ? '°' : ` ${curve.unit}`}
        </span>
      </figcaption>
    </figure>
  );
}

/** Keys by hand, on the curve as it will be: dragged up and down they change what they put. */
function HandKeys({
  curve,
  result,
  times,
  window,
  y,
}: {
  curve: Curve;
  result: SteadyResult;
  times: FrameTimes;
  window: TimeWindow;
  y: (value: number) => number;
}) {
  const keys = useDocument((s) => s.steady?.keys);
  const drag = useRef<{ frame: number; from: number; pointer: number; unit: number } | null>(null);
  const intended = curve.intended(result);
  if (!keys) return null;
  const field = curve.channel === 'scale' ? 'zoom' : curve.channel;
  const change = (frame: number, value: number): void =>
    putByHand({ [field]: field === 'zoom' ? Math.max(value, 0.05) : value }, frame);
  return keys.map((key) => {
    const share = inWindow(window, middleShareOf(times, key.frame));
    if (share < 0 || share > 1) return null;
    const at = y(curve.shown(intended[key.frame])) / size.height;
    const value = curve.shown(key[field]);
    return (
      <button
        key={key.frame}
        className="absolute size-2.5 -translate-1/2 rotate-45 cursor-ns-resize touch-none bg-primary ring-1 ring-base-200 focus-visible:ring-2 focus-visible:ring-base-content"
        style={{ left: `${100 * share}%`, top: `${100 * Math.min(Math.max(at, 0), 1)}%` }}
        aria-label={`${curve.name} by hand on frame ${key.frame}: ${value.toFixed(2)} ${curve.unit}`}
        title={`By hand on frame ${key.frame}: ${value.toFixed(2)} ${curve.unit}. Drag, or arrow keys`}
        data-testid={`curve-key-${field}`}
        onPointerDown={(event) => {
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          const { height } = (event.currentTarget.parentElement as HTMLElement).getBoundingClientRect();
          // What a pixel of the screen is worth, as it is shown.
          const unit = ((y(0) - y(1)) / size.height) * height;
          drag.current = { frame: key.frame, from: value, pointer: event.clientY, unit };
        }}
        onPointerMove={(event) => {
          const from = drag.current;
          if (!from) return;
          const fine = event.shiftKey ? 0.1 : 1;
          change(from.frame, curve.stored(from.from + (fine * (from.pointer - event.clientY)) / from.unit));
        }}
        onPointerUp={() => (drag.current = null)}
        onKeyDown={(event) => {
          const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
          if (way === undefined) return;
          event.preventDefault();
          event.stopPropagation();
          const step = (event.shiftKey ? 10 : event.altKey ? 0.1 : 1) * (curve.unit === 'px' ? 1 : 0.1);
          change(key.frame, curve.stored(value + way * step));
        }}
      />
    );
  });
}
