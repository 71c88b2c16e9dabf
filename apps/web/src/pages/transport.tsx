import { startOf } from '@lurn/core';
import { Pause, Play, Settings2 } from 'lucide-react';
import { useState } from 'react';
import { ActionButton } from '../actions/action-button';
import { ActionDropdown } from '../actions/action-menu';
import { isRareView, shortViewName } from '../actions/look-actions';
import { useAction } from '../actions/use-action';
import { stageViews } from '../stage/panes';
import { timesOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { usePreferences } from '../state/preferences';
import { useView } from '../state/view';
import { clock, percent } from '../ui/format';

const playing = [
  'loop',
  'sound',
  null,
  'rate-1',
  'rate-0.5',
  'rate-0.25',
  null,
  'size-1',
  'size-0.5',
  'size-0.25',
] as const;

/** Between pictures and time: the frame, the way through it, and what the stage shows. */
export function Transport() {
  return (
    <div className="@container shrink-0 border-b border-base-300 bg-base-100">
      <div className="flex min-h-10 flex-wrap items-center gap-x-2.5 px-3 py-1">
        <FrameField />
        <div className="flex items-center gap-0.5" role="group" aria-label="Playing">
          <ActionButton id="first-frame" />
          <ActionButton id="frame-back" />
          <PlayButton />
          <ActionButton id="frame-on" />
          <ActionButton id="last-frame" />
          <ActionButton id="loop" on="text-primary" />
          <ActionButton id="sound" on="text-primary" />
          <HowItPlays />
        </div>
        <RangeText />
        <div className="ml-auto flex items-center gap-1.5">
          <ActionButton id="guide-line" className="btn-ghost btn-xs btn-square" />
          <ActionButton id="guide-cross" className="btn-ghost btn-xs btn-square" />
          <ActionButton id="ride" className="btn-ghost btn-xs btn-square" />
          <OnionGap />
          <ZoomButton />
          <div className="join" role="group" aria-label="What the stage shows">
            {stageViews.map((view) => (
              <ViewButton key={view} view={view} />
            ))}
          </div>
        </div>
      </div>
    </div>
  );
}

function PlayButton() {
  const isPlaying = usePlayhead((s) => s.playing);
  const { action, tip } = useAction('play');
  return (
    <button
      className="btn btn-sm btn-circle btn-primary mx-1"
      aria-label={isPlaying ? 'Pause' : 'Play'}
      title={tip}
      onClick={action.run}
    >
      {isPlaying ? (
        <Pause size={15} fill="currentColor" />
      ) : (
        <Play size={15} fill="currentColor" className="translate-x-px" />
      )}
    </button>
  );
}

const shares = { 1: '', 0.5: '½', 0.25: '¼' };

/** Rate and size of playing, which are told where they are not the whole. */
function HowItPlays() {
  const rate = usePreferences((s) => s.playbackRate);
  const size = usePreferences((s) => s.playbackSize);
  const told = [rate < 1 && `${shares[rate]} rate`, size < 1 && `${shares[size]} size`].filter(Boolean);
  return (
    <ActionDropdown
      items={playing}
      trigger={
        <button
          className="btn btn-ghost btn-sm gap-1 px-1.5 font-normal"
          aria-label="How it plays"
          title="How it plays"
        >
          <Settings2 size={15} aria-hidden />
          {told.length > 0 && <span className="text-[11px] text-primary">{told.join(', ')}</span>}
        </button>
      }
    />
  );
}

function ViewButton({ view }: { view: (typeof stageViews)[number] }) {
  const { action, isOn, tip } = useAction(`view-${view}`);
  const { icon: Icon } = action;
  return (
    <button
      aria-pressed={isOn}
      className={`btn btn-xs join-item ${isOn ? 'btn-neutral' : 'btn-ghost'}`}
      title={tip}
      aria-label={shortViewName(view)}
      onClick={action.run}
    >
      {Icon && <Icon size={14} aria-hidden />} {!isRareView(view) && shortViewName(view)}
    </button>
  );
}

/** How many frames lie between those of the onion skin. */
function OnionGap() {
  const isOn = useView((s) => s.view === 'onion');
  const apart = useView((s) => s.onionGap);
  if (!isOn) return null;
  return (
    <select
      className="select select-xs w-28"
      aria-label="Frames between the onion skins"
      value={apart}
      onChange={({ target: { value } }) => useView.setState({ onionGap: Number(value) })}
    >
      {[1, 2, 5, 10, 25, 50].map((frames) => (
        <option key={frames} value={frames}>
          {frames === 1 ? 'each frame' : `each ${frames}th`}
        </option>
      ))}
    </select>
  );
}

function ZoomButton() {
  const zoom = useView((s) => s.viewports.source.zoom);
  const other = useView((s) => s.viewports.steadied.zoom);
  const { action, tip } = useAction('whole-picture');
  return (
    <button className="btn btn-ghost btn-xs px-1.5 font-mono" title={tip} onClick={action.run}>
      {zoom === other ? percent(zoom, 0) : `${percent(zoom, 0)} | ${percent(other, 0)}`}
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
    <div className="flex w-[122px] shrink-0 items-baseline gap-2 font-mono">
      <input
        className="input input-xs w-15 text-right text-[13px]"
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
      <span className="text-[11.5px] text-base-content/70">
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
      className="text-[11.5px] whitespace-nowrap text-base-content/70"
      title="The range: set with I and O, or by the ends in the ruler"
    >
      <span className="hidden @min-[1040px]:inline">Range </span>
      <span className="font-mono">
        {range.first}–{range.last}
      </span>
    </span>
  );
}
