import type { ShakeReport } from '@lurn/core';
import { line, scaleLinear, scaleSqrt } from 'd3';
import { useMemo } from 'react';
import { useDocument } from '../state/document';
import { Fold } from '../ui/fold';

const size = { width: 258, height: 104 };
const inset = { left: 30, right: 8, top: 8, bottom: 18 };

/** What shakes, by frequency, before and after: on features that no solve has seen. */
export function ShakeChart() {
  const shake = useDocument((s) => s.shake);
  if (!shake) return null;
  return (
    <Fold name="Shake by frequency">
      <Spectrum {...shake} />
    </Fold>
  );
}

function Spectrum({ spectrum, paths, before, after }: ShakeReport) {
  const { x, y, curves } = useMemo(() => {
    const across = scaleLinear([0, spectrum.at(-1)?.hertz ?? 1], [inset.left, size.width - inset.right]);
    const most = Math.max(0.02, ...spectrum.map((bin) => Math.max(bin.before, bin.after)));
    const up = scaleSqrt([0, most], [size.height - inset.bottom, inset.top]);
    const path = (of: 'before' | 'after') =>
      line<ShakeReport['spectrum'][number]>(
        (bin) => across(bin.hertz),
        (bin) => up(bin[of]),
      )(spectrum);
    return { x: across, y: up, curves: { before: path('before'), after: path('after') } };
  }, [spectrum]);
  return (
    <figure className="mt-1" data-testid="shake-chart">
      <svg
        viewBox={`0 0 ${size.width} ${size.height}`}
        className="w-full rounded-md bg-base-300/50"
        role="img"
        aria-label={`Shake by frequency: ${before.toFixed(2)} pixels before, ${after.toFixed(2)} after`}
      >
        {x.ticks(5).map((tick) => (
          <g key={tick}>
            <path
              d={`M${x(tick)} ${inset.top}V${size.height - inset.bottom}`}
              className="stroke-base-content/15"
            />
            <text
              x={x(tick)}
              y={size.height - 5}
              textAnchor="middle"
              className="fill-base-content/75 font-mono text-[9.5px]"
            >
              {tick === 0 ? '0 Hz' : tick}
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
        <path d={curves.before ?? ''} fill="none" className="stroke-secondary" strokeWidth={1.4} />
        <path d={curves.after ?? ''} fill="none" className="stroke-primary" strokeWidth={1.8} />
      </svg>
      <figcaption className="mt-1 flex justify-between text-[11px] text-base-content/75">
        <span className="flex items-center gap-1.5">
          <span className="h-0.5 w-4 bg-secondary" /> before
          <span className="ml-1.5 h-0.5 w-4 bg-primary" /> after, px
        </span>
        <span title="Features in a fifth of the picture's cells, which no solve has seen">
          on {paths} paths
        </span>
      </figcaption>
    </figure>
  );
}
