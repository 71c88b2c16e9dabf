import { line, scaleLinear, scaleSqrt } from 'd3';
import { useMemo, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import { useDocument } from '../state/document';
import { changeSteady } from '../state/steadying';
import { percent } from '../ui/format';
import { shakeAt } from './trade';

const size = { width: 258, height: 118 };
const inset = { left: 30, right: 8, top: 8, bottom: 20 };
const leastZoom = 1;
const mostZoom = 1.4;

/** The whole trade: how much shake is left at which zoom, with the zoom that is chosen; dragged along, it changes at once. */
export function TradeChart() {
  const trade = useDocument((s) => s.trade);
  const zoom = useDocument((s) => s.steady?.framing.zoom ?? 1);
  const chart = useRef<SVGSVGElement>(null);
  const { x, y, d } = useMemo(() => {
    const across = scaleLinear([leastZoom, mostZoom], [inset.left, size.width - inset.right]);
    const most = Math.max(0.05, ...trade.map(({ shake }) => shake));
    const up = scaleSqrt([0, most], [size.height - inset.bottom, inset.top]);
    const path = line<{ zoom: number; shake: number }>(
      (p) => across(p.zoom),
      (p) => up(p.shake),
    );
    return { x: across, y: up, d: path([...trade]) };
  }, [trade]);
  const choose = (value: number): void => {
    const next = Math.min(Math.max(value, leastZoom), mostZoom);
    changeSteady({ framing: { zoom: Math.round(next * 1000) / 1000, offsetX: 0, offsetY: 0 } }, 'Framing');
  };
  const drag = (event: PointerEvent<SVGSVGElement>): void => {
    if (event.buttons !== 1) return;
    const { left, width } = event.currentTarget.getBoundingClientRect();
    choose(x.invert(((event.clientX - left) / width) * size.width));
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = { ArrowLeft: -0.005, ArrowRight: 0.005 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    choose(zoom + by);
  };
  const left = shakeAt(trade, zoom);
  const shown = Math.min(Math.max(zoom, leastZoom), mostZoom);
  return (
    <figure className="mt-2.5">
      <svg
        ref={chart}
        viewBox={`0 0 ${size.width} ${size.height}`}
        className="w-full cursor-ew-resize touch-none rounded-md select-none bg-base-300/50 outline-none focus-visible:ring-1 focus-visible:ring-primary"
        role="slider"
        tabIndex={0}
        aria-label="Zoom that the path may take"
        aria-valuemin={100 * leastZoom}
        aria-valuemax={100 * mostZoom}
        aria-valuenow={Math.round(1000 * shown) / 10}
        aria-valuetext={`${percent(zoom)}${left === null ? '' : `, leaves a shake of ${left.toFixed(2)} pixels`}`}
        data-testid="trade"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          drag(event);
        }}
        onPointerMove={drag}
        onKeyDown={onKeyDown}
      >
        {[1.1, 1.2, 1.3].map((tick) => (
          <g key={tick}>
            <path
              d={`M${x(tick)} ${inset.top}V${size.height - inset.bottom}`}
              className="stroke-base-content/15"
            />
            <text
              x={x(tick)}
              y={size.height - 6}
              textAnchor="middle"
              className="fill-base-content/75 font-mono text-[9.5px]"
            >
              {percent(tick, 0)}
            </text>
          </g>
        ))}
        {y.ticks(3).map((tick) => (
          <text
            key={tick}
            x={inset.left - 4}
            y={y(tick) + 3}
            textAnchor="end"
            className="fill-base-content/75 font-mono text-[9.5px]"
          >
            {tick}
          </text>
        ))}
        {d && <path d={d} fill="none" className="stroke-secondary" strokeWidth={1.8} />}
        <path
          d={`M${x(shown)} ${inset.top}V${size.height - inset.bottom}`}
          className="stroke-primary"
          strokeWidth={1.5}
        />
        {left !== null && <circle cx={x(shown)} cy={y(left)} r={4} className="fill-primary" />}
      </svg>
      <figcaption className="mt-1 flex justify-between text-[11.5px] text-base-content/80">
        <span>Zoom {percent(zoom)}</span>
        <span>{left === null ? 'working it out…' : `shake left ${left.toFixed(2)} px`}</span>
      </figcaption>
    </figure>
  );
}
