import type { TrackView } from '@lurn/contract';
import { sampleStateNames, SampleState, sure } from '@lurn/core';
import { ArrowDown, ArrowUp, Circle, CircleDot, Eye, EyeOff, Lock, LockOpen, Search } from 'lucide-react';
import { useMemo, useState, type ReactNode } from 'react';
import { ActionButton } from '../actions/action-button';
import { ActionContextMenu } from '../actions/action-menu';
import { trackMenu } from '../panels/tracks-panel';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { choose, pointedAt, useSelection } from '../state/selection';
import { changeTracks } from '../state/track-edits';
import type { TrackSamples } from '../state/track-samples';
import { LongList } from '../ui/long-list';
import { trackColour } from '../ui/track-colour';

/** What a table tells of a track's samples. */
interface Facts {
  first: number | null;
  last: number | null;
  /** Of the frames between them, the share that is sure. */
  sureShare: number;
  worst: { frame: number; what: string; confidence: number } | null;
}

const known = new WeakMap<TrackSamples, Facts>();

function factsOf(samples: TrackSamples | undefined): Facts {
  const nothing: Facts = { first: null, last: null, sureShare: 0, worst: null };
  if (!samples) return nothing;
  const before = known.get(samples);
  if (before) return before;
  const facts = { ...nothing };
  let good = 0;
  for (let k = 0; k < samples.frames; k++) {
    const state = samples.state(k);
    if (!state) continue;
    facts.first ??= k;
    facts.last = k;
    const worth = state === SampleState.placed ? 1 : state === SampleState.lost ? -1 : samples.confidence(k);
    const fine = state === SampleState.placed || (state === SampleState.tracked && worth >= sure);
    if (fine) good++;
    if (state !== SampleState.placed && worth < (facts.worst?.confidence ?? 2))
      facts.worst = { frame: k, what: sampleStateNames[state], confidence: worth };
  }
  facts.sureShare = facts.first === null || facts.last === null ? 0 : good / (facts.last - facts.first + 1);
  known.set(samples, facts);
  return facts;
}

interface Row {
  id: string;
  track: TrackView;
  facts: Facts;
}

type Column = 'name' | 'kind' | 'span' | 'sure' | 'worst' | 'used' | 'locked' | 'hidden';

const columns: { column: Column; label: string; width: string }[] = [
  { column: 'name', label: 'Name', width: 'minmax(110px,1.6fr)' },
  { column: 'kind', label: 'Kind', width: '64px' },
  { column: 'span', label: 'Span', width: '110px' },
  { column: 'sure', label: 'Sure', width: '76px' },
  { column: 'worst', label: 'Worst spot', width: 'minmax(120px,1.2fr)' },
  { column: 'used', label: 'Used', width: '58px' },
  { column: 'locked', label: 'Locked', width: '66px' },
  { column: 'hidden', label: 'Hidden', width: '66px' },
];
const grid = columns.map(({ width }) => width).join(' ');

const order: Record<Column, (a: Row, b: Row) => number> = {
  name: (a, b) => a.track.name.localeCompare(b.track.name, undefined, { numeric: true }),
  kind: (a, b) => a.track.kind.localeCompare(b.track.kind),
  span: (a, b) => (a.facts.first ?? Infinity) - (b.facts.first ?? Infinity),
  sure: (a, b) => a.facts.sureShare - b.facts.sureShare,
  worst: (a, b) => (a.facts.worst?.confidence ?? 2) - (b.facts.worst?.confidence ?? 2),
  used: (a, b) => Number(b.track.used) - Number(a.track.used),
  locked: (a, b) => Number(b.track.locked) - Number(a.track.locked),
  hidden: (a, b) => Number(b.track.hidden) - Number(a.track.hidden),
};

/** All tracks with what matters of each; sorted, filtered, several chosen and treated alike. */
export function TracksTable() {
  const tracks = useDocument((s) => s.tracks);
  const samples = useDocument((s) => s.samples);
  const selected = useSelection((s) => s.selected);
  const [sorted, setSorted] = useState<{ by: Column; down: boolean } | null>(null);
  const [wanted, setWanted] = useState('');
  const rows = useMemo(() => {
    const shown = tracks
      .filter(({ name }) => name.toLowerCase().includes(wanted.trim().toLowerCase()))
      .map((track): Row => ({ id: track.id, track, facts: factsOf(samples.get(track.id)) }));
    if (sorted) shown.sort((a, b) => (sorted.down ? -1 : 1) * order[sorted.by](a, b));
    return shown;
  }, [tracks, samples, wanted, sorted]);
  const ids = rows.map(({ id }) => id);
  const sort = (by: Column): void =>
    setSorted((now) => (now?.by !== by ? { by, down: false } : now.down ? null : { by, down: true }));
  if (tracks.length === 0)
    return (
      <p className="flex h-full items-center justify-center text-base-content/75">
        Nothing is followed yet: the tracks are listed here.
      </p>
    );
  return (
    <div className="flex h-full min-h-0 flex-col" data-testid="tracks-table">
      <div className="flex shrink-0 items-center gap-1.5 px-3 py-1.5">
        <label className="input input-xs w-44">
          <Search size={12} className="opacity-70" aria-hidden />
          <input
            type="search"
            placeholder="Filter by name"
            aria-label="Filter tracks by name"
            value={wanted}
            onChange={(event) => setWanted(event.target.value)}
          />
        </label>
        <button
          className="btn btn-ghost btn-xs font-normal"
          onClick={() => useSelection.setState({ chosen: new Set(ids), selected: ids[0] ?? null })}
          disabled={ids.length === 0}
        >
          Choose {wanted ? 'these' : 'all'} {ids.length}
        </button>
        <span className="ml-auto flex gap-1">
          {(['duplicate', 'join', 'carry', 'use', 'lock', 'hide', 'delete'] as const).map((id) => (
            <ActionButton
              key={id}
              id={id}
              className="btn-xs btn-ghost font-normal"
              on=""
              bare
              text={words[id]}
            />
          ))}
        </span>
      </div>
      <div
        role="table"
        aria-label="Tracks"
        aria-rowcount={rows.length + 1}
        className="flex min-h-0 flex-1 flex-col"
      >
        <div role="rowgroup">
          <div
            role="row"
            className="grid border-y border-base-300 pr-3 pl-3 text-[11px] text-base-content/75"
            style={{ gridTemplateColumns: grid }}
          >
            {columns.map(({ column, label }) => (
              <div
                key={column}
                role="columnheader"
                aria-sort={sorted?.by !== column ? 'none' : sorted.down ? 'descending' : 'ascending'}
              >
                <button className="flex h-6 w-full items-center gap-1 text-left" onClick={() => sort(column)}>
                  {label}
                  {sorted?.by === column &&
                    (sorted.down ? <ArrowDown size={11} aria-hidden /> : <ArrowUp size={11} aria-hidden />)}
                </button>
              </div>
            ))}
          </div>
        </div>
        <ActionContextMenu items={trackMenu}>
          <div className="min-h-0 flex-1">
            <LongList
              rows={rows}
              rowHeight={26}
              selected={selected}
              label="Tracks"
              className="h-full"
              roles={{ list: 'rowgroup', row: 'presentation' }}
            >
              {(row) => <TableRow row={row} ids={ids} />}
            </LongList>
          </div>
        </ActionContextMenu>
        {rows.length === 0 && <p className="p-4 text-base-content/75">No track is called “{wanted}”.</p>}
      </div>
    </div>
  );
}

const words = {
  duplicate: 'Duplicate',
  join: 'Join',
  carry: 'Give motion',
  use: 'Use',
  lock: 'Lock',
  hide: 'Hide',
  delete: 'Delete',
};

function TableRow({ row: { id, track, facts }, ids }: { row: Row; ids: readonly string[] }) {
  const chosen = useSelection((s) => s.chosen.has(id));
  const isSelected = useSelection((s) => s.selected === id);
  const together = (): string[] => (chosen ? [...useSelection.getState().chosen] : [id]);
  const { first, last, sureShare, worst } = facts;
  return (
    <div
      role="row"
      aria-selected={chosen}
      tabIndex={0}
      className={`grid h-[26px] cursor-default items-center pr-3 pl-3 outline-none focus-visible:ring-1 focus-visible:ring-primary ${chosen ? 'bg-base-100' : 'hover:bg-base-300/40'} ${isSelected ? 'shadow-[inset_2px_0_0] shadow-primary' : ''}`}
      style={{ gridTemplateColumns: grid }}
      data-testid="table-row"
      onClick={(event) => useSelection.setState((before) => choose(ids, before, id, pointedAt(event)))}
      onContextMenu={() => !chosen && useSelection.setState((before) => choose(ids, before, id, 'alone'))}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return;
        event.preventDefault();
        event.stopPropagation();
        useSelection.setState((before) => choose(ids, before, id, pointedAt(event)));
      }}
    >
      <Cell>
        <span className="flex min-w-0 items-center gap-2">
          <span
            className="size-2 shrink-0 rounded-full"
            style={{ background: trackColour(track.position) }}
          />
          <span className="truncate">{track.name}</span>
        </span>
      </Cell>
      <Cell>
        <span className="text-base-content/75">{track.kind}</span>
      </Cell>
      <Cell mono>{first === null ? '–' : first === last ? first : `${first}–${last}`}</Cell>
      <Cell mono>{first === null ? '–' : `${Math.round(100 * sureShare)} %`}</Cell>
      <Cell>
        {worst && worst.confidence < 1 ? (
          <button
            className={`link link-hover font-mono text-[11px] ${worst.confidence < sure ? 'text-warning' : ''}`}
            title="Go there"
            onClick={(event) => {
              event.stopPropagation();
              useSelection.setState({ selected: id, chosen: new Set([id]) });
              go(worst.frame);
            }}
          >
            {worst.frame}: {worst.what === 'tracked' ? `${Math.round(100 * worst.confidence)} %` : worst.what}
          </button>
        ) : (
          '–'
        )}
      </Cell>
      <Flag label="Used" on={track.used} onClick={() => void changeTracks(together(), { used: !track.used })}>
        {track.used ? <CircleDot size={14} /> : <Circle size={14} />}
      </Flag>
      <Flag
        label="Locked"
        on={track.locked}
        onClick={() => void changeTracks(together(), { locked: !track.locked })}
      >
        {track.locked ? <Lock size={14} /> : <LockOpen size={14} />}
      </Flag>
      <Flag
        label="Hidden"
        on={track.hidden}
        onClick={() => void changeTracks(together(), { hidden: !track.hidden })}
      >
        {track.hidden ? <EyeOff size={14} /> : <Eye size={14} />}
      </Flag>
    </div>
  );
}

const Cell = ({ children, mono }: { children: ReactNode; mono?: boolean }) => (
  <div role="cell" className={`min-w-0 truncate ${mono ? 'font-mono text-[11.5px]' : ''}`}>
    {children}
  </div>
);

function Flag({
  label,
  on,
  onClick,
  children,
}: {
  label: string;
  on: boolean;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <div role="cell">
      <button
        className={`btn btn-ghost btn-xs btn-square ${on ? '' : 'text-base-content/70'}`}
        aria-label={label}
        aria-pressed={on}
        title={label}
        onClick={(event) => {
          event.stopPropagation();
          onClick();
        }}
      >
        {children}
      </button>
    </div>
  );
}
