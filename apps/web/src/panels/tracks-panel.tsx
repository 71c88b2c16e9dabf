import type { TrackView } from '@lurn/contract';
import {
  Crosshair,
  Eye,
  EyeOff,
  Lock,
  LockOpen,
  StepBack,
  StepForward,
  Square,
  Trash2,
  ArrowLeft,
  ArrowLeftRight,
  ArrowRight,
  CircleDot,
  Circle,
  Sparkles,
} from 'lucide-react';
import { useState, type ReactNode } from 'react';
import {
  cancelJob,
  changeTrack,
  deleteTrack,
  follow,
  latestJob,
  runningJob,
  startAgain,
  useEditor,
  type FollowDirection,
} from '../state/editor';
import { timeLeft } from '../ui/format';
import { trackColour } from '../ui/track-colour';
import { FollowOptions } from './follow-options';
import { Section } from './section';
import { SuggestForm } from './suggest-form';

/** The list of tracks, and following them. */
export function TracksPanel() {
  const tracks = useEditor((s) => s.tracks);
  const tool = useEditor((s) => s.tool);
  const [suggesting, setSuggesting] = useState(false);
  const place = (
    <span className="flex gap-1">
      <button
        className={`btn btn-xs ${suggesting ? 'btn-primary' : 'btn-ghost'}`}
        aria-pressed={suggesting}
        title="Let the best places on this frame be found"
        onClick={() => setSuggesting(!suggesting)}
      >
        <Sparkles size={13} aria-hidden /> Suggest
      </button>
      <button
        className={`btn btn-xs ${tool === 'place' ? 'btn-primary' : 'btn-soft btn-primary'}`}
        aria-pressed={tool === 'place'}
        title="Place a point on the source (P)"
        onClick={() => useEditor.setState({ tool: tool === 'place' ? 'move' : 'place' })}
      >
        <Crosshair size={13} aria-hidden /> Place point
      </button>
    </span>
  );
  return (
    <Section title="Tracks" aside={place}>
      {suggesting && <SuggestForm onDone={() => setSuggesting(false)} />}
      {tracks.length === 0 ? (
        <p className="py-1 leading-relaxed text-base-content/70">
          {tool === 'place'
            ? 'Click in the source on something fixed, of high contrast, at the depth that matters.'
            : 'Nothing is followed yet. Place a point on what should hold still.'}
        </p>
      ) : (
        <ul className="-mx-1.5 max-h-40 space-y-0.5 overflow-y-auto">
          {tracks.map((track) => (
            <TrackRow key={track.id} track={track} />
          ))}
        </ul>
      )}
      {tracks.length > 0 && <FollowBar />}
      <FollowOptions />
    </Section>
  );
}

function TrackRow({ track }: { track: TrackView }) {
  const selected = useEditor((s) => s.selected === track.id);
  const [naming, setNaming] = useState(false);
  const rename = (name: string): void => {
    setNaming(false);
    const trimmed = name.trim();
    if (trimmed && trimmed !== track.name) void changeTrack(track.id, { name: trimmed });
  };
  return (
    <li
      className={`flex items-center gap-1 rounded-md px-1.5 py-0.5 ${selected ? 'bg-base-300' : 'hover:bg-base-300/50'}`}
      aria-current={selected}
      data-testid="track-row"
      onClick={() => useEditor.setState({ selected: track.id })}
    >
      <span
        className="mr-1 size-2.5 shrink-0 rounded-full"
        style={{ background: trackColour(track.position) }}
      />
      {naming ? (
        <input
          className="input input-xs min-w-0 flex-1"
          defaultValue={track.name}
          autoFocus
          maxLength={80}
          aria-label="Name of the track"
          onFocus={(event) => event.target.select()}
          onBlur={(event) => rename(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') rename(event.currentTarget.value);
            if (event.key === 'Escape') setNaming(false);
          }}
        />
      ) : (
        <button
          className="min-w-0 flex-1 truncate text-left"
          title="Double-click to rename"
          onDoubleClick={() => setNaming(true)}
        >
          {track.name}
        </button>
      )}
      <Toggle
        label={track.used ? 'Leave out of the motion' : 'Take into the motion'}
        pressed={track.used}
        onClick={() => void changeTrack(track.id, { used: !track.used })}
      >
        {track.used ? <CircleDot size={14} /> : <Circle size={14} />}
      </Toggle>
      <Toggle
        label={track.hidden ? 'Show' : 'Hide'}
        pressed={!track.hidden}
        onClick={() => void changeTrack(track.id, { hidden: !track.hidden })}
      >
        {track.hidden ? <EyeOff size={14} /> : <Eye size={14} />}
      </Toggle>
      <Toggle
        label={track.locked ? 'Unlock' : 'Lock'}
        pressed={track.locked}
        onClick={() => void changeTrack(track.id, { locked: !track.locked })}
      >
        {track.locked ? <Lock size={14} /> : <LockOpen size={14} />}
      </Toggle>
      <Toggle label={`Delete ${track.name}`} onClick={() => void deleteTrack(track.id)}>
        <Trash2 size={14} />
      </Toggle>
    </li>
  );
}

function Toggle({
  label,
  pressed,
  onClick,
  children,
}: {
  label: string;
  pressed?: boolean;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <button
      className={`btn btn-ghost btn-xs btn-square ${pressed === false ? 'text-base-content/50' : ''}`}
      aria-label={label}
      title={label}
      aria-pressed={pressed}
      onClick={(event) => {
        event.stopPropagation();
        onClick();
      }}
    >
      {children}
    </button>
  );
}

const directions: { direction: FollowDirection; label: string; keys: string; icon: ReactNode }[] = [
  { direction: 'backwards', label: 'Follow backwards', keys: '[', icon: <ArrowLeft size={15} /> },
  { direction: 'previous', label: 'Follow one frame back', keys: 'Shift+[', icon: <StepBack size={15} /> },
  { direction: 'both', label: 'Follow both ways', keys: '\\', icon: <ArrowLeftRight size={15} /> },
  { direction: 'next', label: 'Follow one frame on', keys: 'Shift+]', icon: <StepForward size={15} /> },
  { direction: 'forwards', label: 'Follow forwards', keys: ']', icon: <ArrowRight size={15} /> },
];

function FollowBar() {
  const job = useEditor(runningJob('track'));
  const last = useEditor(latestJob('track'));
  if (job) {
    return (
      <div className="mt-2.5 flex items-center gap-2" data-testid="following">
        <progress
          className="progress progress-primary h-1.5 flex-1"
          value={job.done}
          max={job.total}
          aria-label="Following"
        />
        <span className="font-mono text-[11px] text-base-content/70">
          {job.state === 'waiting'
            ? 'Waiting for its turn'
            : `${job.done}/${job.total} ${timeLeft(job.startedAt, job.done, job.total) ?? ''}`}
        </span>
        <button className="btn btn-xs" onClick={() => void cancelJob(job.id)} title="Stop following (Escape)">
          <Square size={11} fill="currentColor" aria-hidden /> Stop
        </button>
      </div>
    );
  }
  return (
    <>
      {last && (last.state === 'interrupted' || last.state === 'failed') && (
        <p className="mt-2 flex items-center gap-2 text-warning" data-testid="cut-short">
          <span className="flex-1">
            {last.state === 'failed' ? last.error : 'Following was cut short; what was found is kept.'}
          </span>
          <button className="btn btn-xs" onClick={() => void startAgain(last.id)}>
            Start again
          </button>
        </p>
      )}
      <div className="join mt-2.5 grid grid-cols-5" role="group" aria-label="Follow the selected point">
        {directions.map(({ direction, label, keys, icon }) => (
          <button
            key={direction}
            className="btn btn-sm join-item"
            aria-label={label}
            title={`${label} (${keys})`}
            onClick={() => void follow(direction)}
          >
            {icon}
          </button>
        ))}
      </div>
    </>
  );
}
