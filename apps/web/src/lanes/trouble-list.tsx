import { RefreshCw } from 'lucide-react';
import { ActionButton } from '../actions/action-button';
import { useDocument } from '../state/document';
import { followSpan } from '../state/track-edits';
import { isAt, lookAt, useTroubles } from '../state/trouble-list';
import type { Trouble } from '../state/troubles';
import { LongList } from '../ui/long-list';
import { trackColour } from '../ui/track-colour';
import { adviceOf, kindInWords } from '../ui/trouble-in-words';
import { LookPair } from './look-pair';

/** All that may be wrong, over all tracks, the worst first; with the pictures to tell by, and what can be done. */
export function TroubleList() {
  const troubles = useTroubles((s) => s.list);
  const tracks = useDocument((s) => s.tracks.length);
  const at = useTroubles((s) => s.at);
  const current = troubles.find((one) => isAt(one, at)) ?? null;
  if (troubles.length === 0)
    return (
      <p
        className="flex h-full items-center justify-center px-6 text-center text-base-content/75"
        data-testid="no-trouble"
      >
        {tracks === 0
          ? 'Nothing is followed yet. What goes wrong on the way will be listed here, the worst first.'
          : 'No trouble: every track is sure of itself, and they agree.'}
      </p>
    );
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(240px,1fr)_minmax(0,1.6fr)]">
      <LongList
        rows={troubles.map((trouble) => ({ id: keyOf(trouble), trouble }))}
        rowHeight={28}
        selected={current && keyOf(current)}
        label="Trouble, the worst first"
        className="h-full border-r border-base-300 py-1"
      >
        {({ trouble }) => (
          <TroubleRow trouble={trouble} isCurrent={current !== null && isAt(trouble, current)} />
        )}
      </LongList>
      {current ? (
        <Inspector trouble={current} count={troubles.length} place={1 + troubles.indexOf(current)} />
      ) : (
        <div className="flex flex-col items-center justify-center gap-2.5 px-6 text-center text-base-content/75">
          <p>
            {troubles.length === 1 ? 'One place' : `${troubles.length} places`} to look at. What is mended
            leaves the list by itself.
          </p>
          <ActionButton id="next-trouble" className="btn-sm btn-primary" bare text="Begin with the worst" />
        </div>
      )}
    </div>
  );
}

const keyOf = ({ trackId, kind, first }: Trouble): string => `${trackId} ${kind} ${first}`;

const frames = ({ first, last }: Trouble): string => (first === last ? `${first}` : `${first}–${last}`);

function TroubleRow({ trouble, isCurrent }: { trouble: Trouble; isCurrent: boolean }) {
  const track = useDocument((s) => s.tracks.find(({ id }) => id === trouble.trackId));
  if (!track) return null;
  return (
    <button
      className={`flex h-7 w-full items-center gap-2 px-3 text-left ${isCurrent ? 'bg-base-100 shadow-[inset_2px_0_0] shadow-primary' : 'hover:bg-base-300/50'}`}
      aria-current={isCurrent}
      data-testid="trouble"
      data-kind={trouble.kind}
      data-frames={frames(trouble)}
      onClick={() => lookAt(trouble)}
    >
      <span className="size-2 shrink-0 rounded-full" style={{ background: trackColour(track.position) }} />
      <span className="w-24 truncate">{track.name}</span>
      <span className="flex-1 truncate text-warning">{kindInWords(trouble)}</span>
      <span className="font-mono text-[11px] text-base-content/75">{frames(trouble)}</span>
    </button>
  );
}

function Inspector({ trouble, place, count }: { trouble: Trouble; place: number; count: number }) {
  const samples = useDocument((s) => s.samples.get(trouble.trackId));
  const track = useDocument((s) => s.tracks.find(({ id }) => id === trouble.trackId));
  const { first, last, worst, trackId } = trouble;
  if (!samples || !track) return null;
  const { why, help } = adviceOf(trouble, samples.get(worst));
  return (
    <section
      className="flex min-h-0 min-w-0 flex-col gap-2.5 overflow-auto p-3"
      aria-label="The trouble looked at"
    >
      <div className="flex items-baseline gap-3">
        <h3 className="font-medium" aria-live="polite">
          {track.name}: {kindInWords(trouble)},{' '}
          {first === last ? `frame ${first}` : `frames ${first}–${last}`}
        </h3>
        <span className="ml-auto font-mono text-[11px] whitespace-nowrap text-base-content/75">
          {place} of {count}
        </span>
        <span className="join">
          <ActionButton id="last-trouble" className="btn-xs join-item btn-square" />
          <ActionButton id="next-trouble" className="btn-xs join-item btn-square" />
        </span>
      </div>
      <LookPair track={track} samples={samples} frame={worst} />
      <p className="max-w-prose text-base-content/80" data-testid="trouble-reason">
        {why} {help}
      </p>
      <div className="flex flex-wrap items-center gap-1.5">
        <button
          className="btn btn-sm"
          title="Follow these frames anew, from what lies on either side"
          onClick={() => void followSpan({ first, last }, [trackId])}
        >
          <RefreshCw size={13} aria-hidden /> Follow anew
        </button>
        <ActionButton id="hand" className="btn-sm" text="Mend by hand" />
        <ActionButton id="key" className="btn-sm" text="Key here" />
        {trouble.kind === 'apart' && (
          <ActionButton id="use" className="btn-sm" on="" bare text="Leave out of the motion" />
        )}
        <ActionButton id="wave-through" className="btn-sm" text="Wave through" />
      </div>
    </section>
  );
}
