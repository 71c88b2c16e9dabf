import type { TrackPatch, TrackView } from '@lurn/contract';
import { Circle, CircleDot, Eye, EyeOff, Lock, LockOpen, Sparkles, Trash2 } from 'lucide-react';
import { useMemo, useState } from 'react';
import { ActionButton } from '../actions/action-button';
import { ActionContextMenu } from '../actions/action-menu';
import { useAction } from '../actions/use-action';
import { latestJob, runningJob, useDocument } from '../state/document';
import { startAgain } from '../state/editor';
import { useSelection } from '../state/selection';
import { useView } from '../state/view';
import { pointedAt } from '../state/selection';
import { changeTracks, chooseAll, chooseTrack, deleteTracks } from '../state/track-edits';
import { troubles } from '../state/troubles';
import { LongList } from '../ui/long-list';
import { troubleInWords } from '../ui/reason-in-words';
import { trackColour } from '../ui/track-colour';
import { FollowOptions } from './follow-options';
import { RegionOptions } from './region-options';
import { SampleLine } from './sample-line';
import { JobBar } from './job-bar';
import { Section } from './section';
import { SuggestForm } from './suggest-form';
import { focusAtOnce } from '../ui/focus-at-once';
import { IconToggle } from '../ui/icon-toggle';
import { modifier } from '../ui/modifier';

/** The list of tracks, and following them. */
export function TracksPanel() {
  const tracks = useDocument((s) => s.tracks);
  const selected = useSelection((s) => s.selected);
  const tool = useView((s) => s.tool);
  const [suggesting, setSuggesting] = useState(false);
  const place = (
    <span className="flex gap-1">
      <IconToggle
        label="Suggest: let the best places on this frame be found"
        pressed={suggesting}
        onClick={() => setSuggesting(!suggesting)}
      >
        <Sparkles size={13} aria-hidden />
      </IconToggle>
      <ActionButton id="region" className="btn-xs btn-ghost" on="btn-active" text="Region" />
      <ActionButton id="place" className="btn-xs btn-soft btn-primary" on="btn-active" text="Place point" />
    </span>
  );
  return (
    <Section title="Tracks" aside={place}>
      {suggesting && <SuggestForm onDone={() => setSuggesting(false)} />}
      {tracks.length === 0 ? (
        <FirstTrack placing={tool === 'place'} />
      ) : (
        <ActionContextMenu items={trackMenu}>
          <div>
            <LongList
              rows={tracks}
              rowHeight={27}
              selected={selected}
              label="Tracks"
              className="-mx-1.5 max-h-[162px]"
            >
              {(track) => <TrackRow track={track} />}
            </LongList>
          </div>
        </ActionContextMenu>
      )}
      <ChoiceLine />
      {tracks.length > 0 && <SampleLine />}
      <FollowBar />
      <RegionOptions />
      <FollowOptions />
    </Section>
  );
}

/** What can be done with the chosen tracks, where they are listed. */
export const trackMenu = [
  'follow-both',
  'follow-on',
  'follow-back',
  null,
  'use',
  'hide',
  'lock',
  null,
  'duplicate',
  'join',
  'carry',
  'ride',
  null,
  'tracks-copy',
  'delete',
] as const;

/** What to do on a clip where nothing is followed yet. */
function FirstTrack({ placing }: { placing: boolean }) {
  const { action, reason } = useAction('find-and-follow');
  if (placing)
    return (
      <p className="py-1 leading-relaxed text-base-content/80">
        Click in the source on something fixed, of high contrast, at the depth that matters. Scroll to zoom in
        first.
      </p>
    );
  return (
    <div className="space-y-2.5 py-1 leading-relaxed text-base-content/80" data-testid="first-track">
      <p>Nothing is followed yet.</p>
      <button
        className="btn btn-sm w-full"
        disabled={reason !== null}
        title={reason ?? undefined}
        onClick={action.run}
      >
        <Sparkles size={14} aria-hidden /> Find points and follow them
      </button>
      <p>
        Or place a point yourself on what should hold still: fixed, of high contrast, as far away as what
        matters. A flat thing, like a sign or a screen, is followed whole: draw a region about it.
      </p>
    </div>
  );
}

function TrackRow({ track }: { track: TrackView }) {
  const selected = useSelection((s) => s.selected === track.id);
  const chosen = useSelection((s) => s.chosen.has(track.id));
  // What is done to one of several that are chosen is done to all of them.
  const together = useSelection((s) => (chosen && s.chosen.size > 1 ? s.chosen : null));
  const [naming, setNaming] = useState(false);
  const ids = together ? [...together] : [track.id];
  const all = together ? ` ${together.size} tracks` : '';
  const change = (patch: TrackPatch): void => void changeTracks(ids, patch);
  const rename = (name: string): void => {
    setNaming(false);
    const trimmed = name.trim();
    if (trimmed && trimmed !== track.name) void changeTracks([track.id], { name: trimmed });
  };
  return (
    <div
      className={`flex h-6.5 items-center gap-1 rounded-md px-1.5 ${chosen ? 'bg-base-300' : 'hover:bg-base-300/50'} ${selected && together ? 'rounded-l-none shadow-[inset_2px_0_0] shadow-primary' : ''}`}
      role="presentation"
      data-testid="track-row"
      onClick={(event) => chooseTrack(track.id, pointedAt(event))}
      onContextMenu={() => !chosen && chooseTrack(track.id)}
    >
      <span
        className="mr-1 size-2.5 shrink-0 rounded-full"
        style={{ background: trackColour(track.position) }}
      />
      {naming ? (
        <input
          className="input input-xs min-w-0 flex-1"
          defaultValue={track.name}
          ref={focusAtOnce}
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
          className="min-w-0 flex-1 truncate text-left select-none"
          title={`Double-click to rename; ${modifier} or Shift chooses several`}
          aria-pressed={chosen}
          aria-current={selected}
          onDoubleClick={() => setNaming(true)}
        >
          {track.name}
        </button>
      )}
      <Troubles id={track.id} />
      <IconToggle
        label={track.used ? `Leave${all} out of the motion` : `Take${all} into the motion`}
        pressed={track.used}
        onClick={() => change({ used: !track.used })}
      >
        {track.used ? <CircleDot size={14} /> : <Circle size={14} />}
      </IconToggle>
      <IconToggle
        label={`${track.hidden ? 'Show' : 'Hide'}${all}`}
        pressed={!track.hidden}
        onClick={() => change({ hidden: !track.hidden })}
      >
        {track.hidden ? <EyeOff size={14} /> : <Eye size={14} />}
      </IconToggle>
      <IconToggle
        label={`${track.locked ? 'Unlock' : 'Lock'}${all}`}
        pressed={track.locked}
        onClick={() => change({ locked: !track.locked })}
      >
        {track.locked ? <Lock size={14} /> : <LockOpen size={14} />}
      </IconToggle>
      <IconToggle label={`Delete${all || ` ${track.name}`}`} onClick={() => void deleteTracks(ids)}>
        <Trash2 size={14} />
      </IconToggle>
    </div>
  );
}

/** So many stretches are told one by one. */
const mostTold = 8;

/** How often a track is in trouble, and where for what. */
function Troubles({ id }: { id: string }) {
  const samples = useDocument((s) => s.samples.get(id));
  const frames = useMemo(() => troubles(samples), [samples]);
  const count = frames.length;
  if (count === 0) return null;
  return (
    <span
      className="px-1 font-mono text-[11px] text-warning"
      title={[
        `${count === 1 ? 'One stretch' : `${count} stretches`} where it is lost, bridged or doubtful`,
        ...frames.slice(0, mostTold).map((frame) => troubleInWords(samples, frame)),
        ...(count > mostTold ? ['…'] : []),
      ].join('\n')}
    >
      {count}
    </span>
  );
}

/** How many of the tracks are chosen. */
function ChoiceLine() {
  const count = useDocument((s) => s.tracks.length);
  const chosen = useSelection((s) => s.chosen.size);
  if (count < 2) return null;
  return (
    <p
      className="mt-1.5 flex h-6 items-center justify-between text-[11px] text-base-content/70"
      data-testid="choice"
    >
      {chosen === count ? `All ${count} chosen` : `${chosen} of ${count} chosen`}
      {chosen < count && (
        <button
          className="btn btn-ghost btn-xs -mr-2 font-normal"
          title={`Choose all (${modifier} A)`}
          onClick={chooseAll}
        >
          Choose all
        </button>
      )}
    </p>
  );
}

const directions = ['follow-back', 'follow-one-back', 'follow-both', 'follow-one-on', 'follow-on'];

function FollowBar() {
  const job = useDocument(runningJob('track'));
  const last = useDocument(latestJob('track'));
  const some = useDocument((s) => s.tracks.length > 0);
  if (job) {
    return (
      <div className="mt-2.5 flex items-center gap-2" data-testid="following">
        <JobBar job={job} label="Following" stopping="Stop following (Escape)" />
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
      {some && (
        <div className="join mt-2.5 grid grid-cols-5" role="group" aria-label="Follow the chosen points">
          {directions.map((id) => (
            <ActionButton key={id} id={id} className="btn-sm join-item" />
          ))}
        </div>
      )}
    </>
  );
}
