import type { TrackView } from '@lurn/contract';
import type { FrameTimes } from '@lurn/core';
import { scaleLinear, type ScaleLinear } from 'd3';
import { useEffect, useRef, useState, type PointerEvent, type WheelEvent } from 'react';
import { frameAtShare, middleShareOf, timesOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { go, setKey } from '../state/editor';
import { useSelection } from '../state/selection';
import { fromWindow, inWindow, useTimeWindow } from '../state/time-window';
import { moveKey } from '../state/track-edits';
import type { TrackSamples } from '../state/track-samples';
import { useView } from '../state/view';
import { useWorkspace } from '../state/workspace';
import { trackColour } from '../ui/track-colour';
import { curveNames, curveOf, curveUnits, extentOf, keyAt, type CurveName } from './curve-columns';
import { diamond } from './lane-canvas';
import { outline } from './outline';
import { Cursor, Row, Ruler, SpanMark, useTimeWheel } from './timeline';

interface Drawn {
  track: TrackView;
  samples: TrackSamples;
}

/** Of more curves than this none can be told from another. */
const mostDrawn = 24;

/** The chosen tracks' own numbers over time; keys can be dragged, frames chosen. */
export function TrackCurves() {
  const clip = useDocument((s) => s.clip);
  const tracks = useDocument((s) => s.tracks);
  const samples = useDocument((s) => s.samples);
  const chosen = useSelection((s) => s.chosen);
  const names = useWorkspace((s) => s.curves);
  const host = useRef<HTMLDivElement>(null);
  useTimeWheel(host, { scrolls: false });
  if (!clip) return null;
  const times = timesOf(clip);
  const all = tracks.filter(({ id }) => chosen.has(id));
  const drawn = all.slice(0, mostDrawn).flatMap((track): Drawn[] => {
    const own = samples.get(track.id);
    return own ? [{ track, samples: own }] : [];
  });
  return (
    <div className="flex h-full flex-col bg-base-200" data-testid="curves">
      <div ref={host} className="relative flex min-h-0 flex-1 flex-col">
        <Row
          label={
            <span className="truncate text-[11px] text-base-content/75">
              {all.length === 1
                ? all[0].name
                : all.length > mostDrawn
                  ? `${mostDrawn} of ${all.length} drawn`
                  : `${all.length} tracks chosen`}
            </span>
          }
          className="h-7 shrink-0"
        >
          <Ruler times={times} />
        </Row>
        <div className="flex min-h-0 flex-1 flex-col">
          {drawn.length === 0 ? (
            <p className="flex flex-1 items-center justify-center text-base-content/75">
              Choose a track to see its curves.
            </p>
          ) : (
            names.map((name) => <Chart key={name} name={name} drawn={drawn} times={times} />)
          )}
        </div>
        <SpanMark times={times} />
        <Cursor times={times} />
      </div>
      <div
        className="flex shrink-0 items-center gap-1 border-t border-base-300 px-3 py-1"
        role="group"
        aria-label="Curves that are shown"
      >
        {curveNames.map((name) => (
          <button
            key={name}
            className={`btn btn-xs ${names.includes(name) ? 'btn-secondary btn-soft' : 'btn-ghost'} font-normal`}
            aria-pressed={names.includes(name)}
            onClick={() => toggle(name)}
          >
            {spoken[name]}
          </button>
        ))}
        <span className="ml-auto truncate text-[11px] text-base-content/75">
          Wheel: time · Alt wheel: values · Alt drag: move values · drag: choose frames, or a key
        </span>
      </div>
    </div>
  );
}

const spoken: Record<CurveName, string> = {
  x: 'x',
  y: 'y',
  speed: 'Speed',
  rotation: 'Rotation',
  scale: 'Scale',
  confidence: 'Confidence',
};

/** One curve is always shown. */
function toggle(name: CurveName): void {
  useWorkspace.setState(({ curves }) => {
    const next = curveNames.filter((one) => (one === name ? !curves.includes(name) : curves.includes(one)));
    return next.length > 0 ? { curves: next } : {};
  });
}

/** A press of the pointer on a chart, until it is let go. */
interface Press {
  x: number;
  y: number;
  frame: number;
  moved: boolean;
  /** What is dragged: values, a key along time or in value, or nothing, and frames are chosen. */
  values: [number, number] | null;
  key: { id: string; frame: number; way: 'time' | 'value' | null } | null;
}

/** Pixels from which on a press is a drag. */
const dragFrom = 4;

function Chart({ name, drawn, times }: { name: CurveName; drawn: readonly Drawn[]; times: FrameTimes }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const window = useTimeWindow();
  /** The values from bottom to top, where they were zoomed; null to fit what is seen. */
  const [values, setValues] = useState<[number, number] | null>(null);
  const press = useRef<Press | null>(null);
  const [ghost, setGhost] = useState<{ frame: number; value: number } | null>(null);
  const [first, last] = [window.from, window.to].map((share) => frameAtShare(times, share));
  const fit = extentOf(
    drawn.map(({ samples }) => curveOf(samples, name)),
    first,
    last,
  );
  const shown = values ?? padded(fit ?? [0, 1], name);
  const editable = name === 'x' || name === 'y';

  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const draw = (): void => drawChart(element, { name, drawn, times, window, shown, ghost });
    // Drawn once for each picture of the screen, however often it changes until then.
    let next = requestAnimationFrame(draw);
    const resized = new ResizeObserver(() => {
      cancelAnimationFrame(next);
      next = requestAnimationFrame(draw);
    });
    resized.observe(element);
    return () => {
      cancelAnimationFrame(next);
      resized.disconnect();
    };
  });

  const scaleOf = (element: HTMLElement) => scaleLinear(shown, [element.clientHeight, 0]);
  const at = (event: PointerEvent<HTMLCanvasElement> | WheelEvent<HTMLCanvasElement>) => {
    const { left, top, width } = event.currentTarget.getBoundingClientRect();
    const x = event.clientX - left;
    return { x, y: event.clientY - top, frame: frameAtShare(times, fromWindow(window, x / width)) };
  };
  const onWheel = (event: WheelEvent<HTMLCanvasElement>): void => {
    if (!event.altKey) return;
    const middle = scaleOf(event.currentTarget).invert(at(event).y);
    const factor = Math.exp(event.deltaY / 300);
    setValues([middle + (shown[0] - middle) * factor, middle + (shown[1] - middle) * factor]);
  };
  const down = (event: PointerEvent<HTMLCanvasElement>): void => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const p = at(event);
    const y = scaleOf(event.currentTarget);
    const { width } = event.currentTarget.getBoundingClientRect();
    let key: Press['key'] = null;
    for (const { track, samples } of drawn) {
      if (track.locked) continue;
      const curve = curveOf(samples, name);
      const place = (k: number) => ({
        x: width * inWindow(window, middleShareOf(times, k)),
        y: y(curve[k]),
      });
      const frame = keyAt(samples.keys(), place, p);
      if (frame !== null) key = { id: track.id, frame, way: null };
    }
    press.current = { ...p, moved: false, values: event.altKey ? shown : null, key };
  };
  const move = (event: PointerEvent<HTMLCanvasElement>): void => {
    const { current } = press;
    if (!current) return;
    const p = at(event);
    const [dx, dy] = [Math.abs(p.x - current.x), Math.abs(p.y - current.y)];
    if (Math.max(dx, dy) > dragFrom) current.moved = true;
    if (!current.moved) return;
    const y = scaleOf(event.currentTarget);
    if (current.values) {
      const by = y.invert(current.y) - y.invert(p.y);
      setValues([current.values[0] + by, current.values[1] + by]);
    } else if (current.key) {
      current.key.way ??= dx > dy || !editable ? 'time' : 'value';
      const own = drawn.find(({ track }) => track.id === current.key?.id);
      if (!own) return;
      const value = curveOf(own.samples, name)[current.key.frame];
      setGhost(
        current.key.way === 'time'
          ? { frame: p.frame, value }
          : { frame: current.key.frame, value: value + y.invert(p.y) - y.invert(current.y) },
      );
    } else
      useView.setState({
        span: { first: Math.min(current.frame, p.frame), last: Math.max(current.frame, p.frame) },
      });
  };
  const up = (): void => {
    const { current } = press;
    press.current = null;
    setGhost(null);
    if (!current) return;
    if (!current.moved) {
      useView.setState({ span: null });
      go(current.key?.frame ?? current.frame);
    } else if (current.key && ghost) {
      const { id, frame, way } = current.key;
      const here = drawn.find(({ track }) => track.id === id)?.samples.get(frame);
      if (way === 'time' && ghost.frame !== frame) void moveKey(id, frame, ghost.frame);
      else if (way === 'value' && here)
        setKey(id, frame, name === 'x' ? ghost.value : here.x, name === 'y' ? ghost.value : here.y);
    }
  };
  return (
    <Row
      className="min-h-0 flex-1"
      label={
        <span className="flex w-full items-center justify-between gap-1 text-[11px]">
          <span>
            {spoken[name]} <span className="text-base-content/75">{curveUnits[name]}</span>
          </span>
          {values && (
            <button className="btn btn-ghost btn-xs px-1 font-normal" onClick={() => setValues(null)}>
              Fit
            </button>
          )}
        </span>
      }
    >
      <canvas
        ref={canvas}
        className="absolute inset-0 h-full w-full cursor-crosshair touch-none"
        role="img"
        aria-label={`${spoken[name]} of the chosen tracks over time`}
        data-testid={`curve-${name}`}
        data-shown={shown.map((v) => v.toFixed(3)).join(' ')}
        onWheel={onWheel}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={up}
        onDoubleClick={() => setValues(null)}
      />
    </Row>
  );
}

/** The least that a chart spans from bottom to top. */
const leastSpan: Record<CurveName, number> = {
  x: 4,
  y: 4,
  speed: 1,
  rotation: 0.5,
  scale: 1,
  confidence: 10,
};

function padded([low, high]: [number, number], name: CurveName): [number, number] {
  const span = Math.max((high - low) * 1.16, leastSpan[name]);
  const middle = (low + high) / 2;
  return [middle - span / 2, middle + span / 2];
}

/** Numbers at the side: so many where there is room. */
const pixelsEach = 26;

function drawChart(
  canvas: HTMLCanvasElement,
  {
    name,
    drawn,
    times,
    window,
    shown,
    ghost,
  }: {
    name: CurveName;
    drawn: readonly Drawn[];
    times: FrameTimes;
    window: { from: number; to: number };
    shown: [number, number];
    ghost: { frame: number; value: number } | null;
  },
): void {
  const ratio = devicePixelRatio;
  const { clientWidth: width, clientHeight: height } = canvas;
  const [w, h] = [Math.max(1, Math.round(width * ratio)), Math.max(1, Math.round(height * ratio))];
  if (canvas.width !== w || canvas.height !== h) [canvas.width, canvas.height] = [w, h];
  const c = canvas.getContext('2d');
  if (!c) return;
  c.setTransform(ratio, 0, 0, ratio, 0, 0);
  c.clearRect(0, 0, width, height);
  const y = scaleLinear(shown, [height, 0]);
  const x = (frame: number): number => width * inWindow(window, middleShareOf(times, frame));
  drawTicks(c, y, width, height, getComputedStyle(canvas).color);
  const [first, last] = [window.from, window.to].map((share) => frameAtShare(times, share));
  // Many curves over each other are drawn thinner, and by fewer points each.
  const columns = Math.round(drawn.length > 8 ? width / 2 : width);
  for (const { track, samples } of drawn) {
    const colour = trackColour(track.position);
    const values = curveOf(samples, name);
    c.strokeStyle = colour;
    c.lineWidth = drawn.length > 8 ? 1 / ratio : 1.4;
    c.lineJoin = drawn.length > 8 ? 'bevel' : 'round';
    c.beginPath();
    let open = false;
    let before = -1;
    for (const k of outline(values, columns, Math.max(0, first - 1), Math.min(values.length - 1, last + 1))) {
      const value = values[k];
      if (Number.isNaN(value)) {
        open = false;
        continue;
      }
      // A gap between what is drawn is a gap, not a line.
      if (open && k - before === 1) c.lineTo(x(k), y(value));
      else if (open && last - first > columns) c.lineTo(x(k), y(value));
      else c.moveTo(x(k), y(value));
      open = true;
      before = k;
    }
    c.stroke();
    c.fillStyle = colour;
    c.strokeStyle = '#10171b';
    c.lineWidth = 1;
    c.beginPath();
    for (const key of samples.keys())
      if (key >= first && key <= last && !Number.isNaN(values[key])) diamond(c, x(key), y(values[key]), 4.5);
    c.fill();
    c.stroke();
  }
  if (ghost) {
    c.strokeStyle = getComputedStyle(canvas).color;
    c.lineWidth = 1.5;
    c.beginPath();
    diamond(c, x(ghost.frame), y(ghost.value), 6);
    c.stroke();
  }
}

function drawTicks(
  c: CanvasRenderingContext2D,
  y: ScaleLinear<number, number>,
  width: number,
  height: number,
  colour: string,
): void {
  c.font = '10px "JetBrains Mono Variable", monospace';
  c.textBaseline = 'middle';
  const count = Math.max(2, Math.floor(height / pixelsEach));
  const format = y.tickFormat(count);
  for (const tick of y.ticks(count)) {
    const at = y(tick);
    if (at < 6 || at > height - 6) continue;
    c.globalAlpha = 0.12;
    c.fillStyle = colour;
    c.fillRect(0, Math.round(at), width, 1);
    c.globalAlpha = 0.75;
    c.fillText(format(tick), 4, at - 6);
  }
  c.globalAlpha = 1;
}
