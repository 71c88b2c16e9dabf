import type { FrameTimes } from '@lurn/core';
import { stretchNames } from '../state/by-hand';
import { middleShareOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { inWindow, useTimeWindow } from '../state/time-window';
import { across } from './across';
import { frameUnder, Row } from './timeline';

const looks = {
  hold: 'bg-secondary/35 border-secondary',
  protect: 'bg-base-content/15 border-base-content/60',
  even: 'bg-primary/25 border-primary',
};

/** What is done to stretches of frames, and the keys that put the picture somewhere by hand. */
export function SteadyLane({ times }: { times: FrameTimes }) {
  const spans = useDocument((s) => s.steady?.spans);
  const keys = useDocument((s) => s.steady?.keys);
  const window = useTimeWindow();
  if (!spans || !keys || (spans.length === 0 && keys.length === 0)) return null;
  return (
    <Row className="h-6 shrink-0" label="Steadying">
      <div
        className="relative h-6 overflow-hidden"
        data-testid="steady-lane"
        onPointerDown={(event) => go(frameUnder(event, event.currentTarget, times))}
      >
        {spans.map((span, i) => (
          <span
            key={i}
            className={`absolute top-1 bottom-1 truncate rounded-sm border-x-2 px-1 text-[10.5px] leading-4 ${looks[span.kind]}`}
            style={across(window, times, span.first, span.last)}
            title={`${stretchNames[span.kind]}: frames ${span.first} to ${span.last}`}
          >
            {stretchNames[span.kind]}
          </span>
        ))}
        {keys.map(({ frame }) => (
          <span
            key={frame}
            className="absolute top-1/2 size-2 -translate-1/2 rotate-45 bg-primary ring-1 ring-base-200"
            style={{ left: `${100 * inWindow(window, middleShareOf(times, frame))}%` }}
            title={`By hand on frame ${frame}`}
            data-testid="hand-key"
          />
        ))}
      </div>
    </Row>
  );
}
