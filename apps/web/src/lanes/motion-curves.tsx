import type { FrameTimes, SteadyResult } from '@lurn/core';
import { extent, line, scaleLinear } from 'd3';
import { useMemo } from 'react';
import { outline } from './outline';
import { frameAtShare, middleShareOf, timesOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { inWindow, useTimeWindow, type TimeWindow } from '../state/time-window';

interface Curve {
  name: string;
  unit: string;
  found: (result: SteadyResult) => ArrayLike<number>;
  intended: (result: SteadyResult) => ArrayLike<number>;
  /** From the core's unit to the one people read. */
  shown: (value: number) => number;
  least: number;
}

const degrees = (radians: number): number => (radians * 180) / Math.PI;
const same = (value: number): number => value;

const curves: Curve[] = [
  {
    name: 'x',
    unit: 'px',
    found: (r) => r.correction.found.x,
    intended: (r) => r.correction.intended.x,
    shown: same,
    least: 4,
  },
  {
    name: 'y',
    unit: 'px',
    found: (r) => r.correction.found.y,
    intended: (r) => r.correction.intended.y,
    shown: same,
    least: 4,
  },
  {
    name: 'Rotation',
    unit: '°',
    found: (r) => r.correction.found.rotation,
    intended: (r) => r.correction.intended.rotation,
    shown: degrees,
    least: 0.2,
  },
  {
    name: 'Scale',
    unit: '%',
    found: (r) => r.correction.found.scale,
    intended: (r) => r.correction.intended.scale,
    shown: (v) => 100 * v,
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
  const drawn = line<number>((k) => size.width * inWindow(window, middleShareOf(times, k)));
  const [from, to] = [window.from, window.to].map((share) => frameAtShare(times, share));
  const path = (values: Float64Array): string | null =>
    drawn.y((k) => y(values[k]))(outline(values, size.width, from, to));
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
