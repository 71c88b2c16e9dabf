import { X } from 'lucide-react';
import { ActionButton } from '../actions/action-button';
import { ActionTab } from '../actions/action-tab';
import { actionOf } from '../actions/registry';
import { useDocument } from '../state/document';
import { useTroubles } from '../state/trouble-list';
import { useView } from '../state/view';
import { lowerViews, useWorkspace, type LowerView } from '../state/workspace';
import { Lanes } from './lanes';
import { TrackCurves } from './track-curves';
import { TracksTable } from './tracks-table';
import { TroubleList } from './trouble-list';

const names: Record<LowerView, string> = {
  lanes: 'Lanes',
  curves: 'Curves',
  tracks: 'Tracks',
  troubles: 'Trouble',
};

/** Below the stage: lanes, curves, the table of tracks, and the trouble list, one at a time. */
export function LowerArea() {
  const lower = useWorkspace((s) => s.lower);
  return (
    <div className="flex h-full min-h-0 flex-col bg-base-200">
      <div className="flex h-7 shrink-0 items-stretch border-b border-base-300 bg-base-200 pr-2 pl-1">
        <div className="flex" role="tablist" aria-label="Below the stage">
          {lowerViews.map((view) => (
            <LowerTab key={view} view={view} />
          ))}
        </div>
        <SpanTools />
      </div>
      <div
        className="min-h-0 flex-1"
        role="tabpanel"
        id="lower-panel"
        aria-labelledby={`lower-${lower}`}
        tabIndex={-1}
      >
        {lower === 'lanes' && <Lanes />}
        {lower === 'curves' && <TrackCurves />}
        {lower === 'tracks' && <TracksTable />}
        {lower === 'troubles' && <TroubleList />}
      </div>
    </div>
  );
}

function LowerTab({ view }: { view: LowerView }) {
  const { icon: Icon } = actionOf(`lower-${view}`);
  return (
    <ActionTab id={`lower-${view}`} panel="lower-panel" className="gap-1.5 px-2.5 text-[12px]">
      {() => (
        <>
          {Icon && <Icon size={13} aria-hidden />} {names[view]} <Count view={view} />
        </>
      )}
    </ActionTab>
  );
}

function Count({ view }: { view: LowerView }) {
  const tracks = useDocument((s) => s.tracks.length);
  if (view === 'tracks') return tracks > 0 ? <span className="font-mono text-[11px]">{tracks}</span> : null;
  return view === 'troubles' ? <TroubleCount /> : null;
}

function TroubleCount() {
  const length = useTroubles((s) => s.list.length);
  return length > 0 ? <span className="font-mono text-[11px] text-warning">{length}</span> : null;
}

/** The frames that were dragged over, and what can be done to them. */
function SpanTools() {
  const span = useView((s) => s.span);
  if (!span) return null;
  return (
    <div className="ml-auto flex items-center gap-1" data-testid="span-tools">
      <span className="mr-1 text-[11.5px] text-base-content/80">
        Frames{' '}
        <span className="font-mono">
          {span.first}–{span.last}
        </span>
      </span>
      <ActionButton id="follow-span" className="btn-xs" bare text="Follow anew" />
      <ActionButton id="smooth-span" className="btn-xs" bare text="Smooth" />
      <ActionButton id="fill-smooth" className="btn-xs" bare text="Fill between keys" />
      <ActionButton id="clear-span" className="btn-xs" bare text="Remove" />
      <button
        className="btn btn-ghost btn-xs btn-square"
        aria-label="Choose no span"
        onClick={() => useView.setState({ span: null })}
      >
        <X size={13} />
      </button>
    </div>
  );
}
