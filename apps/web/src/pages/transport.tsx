import {
  ChevronFirst,
  ChevronLast,
  ChevronLeft,
  ChevronRight,
  Columns2,
  Pause,
  Play,
  RectangleHorizontal,
  Scan,
  SquareSplitHorizontal,
} from 'lucide-react';
import { startOf } from '@lurn/core';
import { useState, type ReactNode } from 'react';
import { timesOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { go, togglePlay } from '../state/editor';
import { useView } from '../state/view';
import { usePlayhead } from '../state/playhead';
import { clock, percent } from '../ui/format';
import { wholePicture, type StageView } from '../stage/panes';

const views: { view: StageView; label: string; icon: ReactNode }[] = [
  { view: 'twin', label: 'Both', icon: <Columns2 size={14} aria-hidden /> },
  { view: 'source', label: 'Source', icon: <RectangleHorizontal size={14} aria-hidden /> },
  { view: 'steadied', label: 'Steadied', icon: <Scan size={14} aria-hidden /> },
  { view: 'wipe', label: 'Wipe', icon: <SquareSplitHorizontal size={14} aria-hidden /> },
];

/** Between pictures and time: the frame, the way through it, and what the stage shows. */
export function Transport() {
  const view = useView((s) => s.view);
  const zoom = useView((s) => s.viewport.zoom);
  const playing = usePlayhead((s) => s.playing);
  const step = (by: number) => () => go(usePlayhead.getState().frame + by);
  return (
    <div className="flex h-10 items-center gap-3 border-y border-base-300 bg-base-100 px-3">
      <FrameField />
      <div className="flex items-center gap-0.5" role="group" aria-label="Playing">
        <Tool label="First frame (Home)" onClick={() => go(0)}>
          <ChevronFirst size={17} />
        </Tool>
        <Tool label="One frame back (←)" onClick={step(-1)}>
          <ChevronLeft size={17} />
        </Tool>
        <button
          className="btn btn-sm btn-circle btn-primary mx-1"
          aria-label={playing ? 'Pause' : 'Play'}
          title={`${playing ? 'Pause' : 'Play'} (Space)`}
          onClick={togglePlay}
        >
          {playing ? (
            <Pause size={15} fill="currentColor" />
          ) : (
            <Play size={15} fill="currentColor" className="translate-x-px" />
          )}
        </button>
        <Tool label="One frame on (→)" onClick={step(1)}>
          <ChevronRight size={17} />
        </Tool>
        <Tool label="Last frame (End)" onClick={() => go(Infinity)}>
          <ChevronLast size={17} />
        </Tool>
      </div>
      <RangeText />
      <div className="ml-auto flex items-center gap-2">
        <button
          className="btn btn-ghost btn-xs font-mono"
          title="Whole picture (0)"
          onClick={() => useView.setState({ viewport: wholePicture })}
        >
          {percent(zoom, 0)}
        </button>
        <div className="join" role="radiogroup" aria-label="What the stage shows">
          {views.map(({ view: one, label, icon }, i) => (
            <button
              key={one}
              role="radio"
              aria-checked={view === one}
              className={`btn btn-xs join-item ${view === one ? 'btn-neutral' : 'btn-ghost'}`}
              title={`${label} (${i + 1})`}
              onClick={() => useView.setState({ view: one })}
            >
              {icon} {label}
            </button>
          ))}
        </div>
      </div>
    </div>
  );
}

function Tool({ label, onClick, children }: { label: string; onClick: () => void; children: ReactNode }) {
  return (
    <button className="btn btn-ghost btn-sm btn-square" aria-label={label} title={label} onClick={onClick}>
      {children}
    </button>
  );
}

/** The number of the frame that is on the stage; type another to go there. */
function FrameField() {
  const clip = useDocument((s) => s.clip);
  const shown = usePlayhead((s) => Math.max(0, s.shown));
  const [typed, setTyped] = useState<string | null>(null);
  const leave = (): void => {
    if (typed !== null && /^\d+$/.test(typed)) go(Number(typed));
    setTyped(null);
  };
  return (
    <div className="flex w-[136px] items-baseline gap-2 font-mono">
      <input
        className="input input-xs w-16 text-right text-[13px]"
        aria-label="Frame number"
        data-testid="frame-number"
        value={typed ?? shown}
        onFocus={(event) => {
          setTyped(`${shown}`);
          event.target.select();
        }}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={leave}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') setTyped(null);
        }}
      />
      <span className="text-[11.5px] text-base-content/65">
        {clock(clip ? startOf(timesOf(clip), shown) : 0)}
      </span>
    </div>
  );
}

function RangeText() {
  const range = useDocument((s) => s.steady?.range);
  if (!range) return null;
  return (
    <span
      className="text-[11.5px] text-base-content/65"
      title="Set with I and O, or by the ends in the ruler"
    >
      Range{' '}
      <span className="font-mono">
        {range.first}–{range.last}
      </span>
    </span>
  );
}
