import { Download, Film, X } from 'lucide-react';
import { isSteadied } from '@lurn/core';
import { isGoingOn, useDocument } from '../state/document';
import { cancelJob, startAgain } from '../state/editor';
import { startExport } from '../state/steadying';
import { ActionButton } from '../actions/action-button';
import { useTracksOut } from '../state/tracks-out';
import { timeLeft } from '../ui/format';
import { Section } from './section';

/** Getting things out: the movie, the tracks, the motion. */
export function ExportPanel() {
  const clip = useDocument((s) => s.clip);
  const jobs = useDocument((s) => s.jobs);
  const moves = useDocument(
    (s) => s.result !== null && s.steady !== null && isSteadied(s.result.motion, s.steady),
  );
  const out = useTracksOut();
  const set = useTracksOut.setState;
  const bare = useDocument((s) => s.result?.bare.length ?? 0);
  if (!clip) return null;
  const exports = jobs
    .filter((j) => j.kind === 'export')
    .sort((a, b) => b.startedAt.localeCompare(a.startedAt));
  const running = exports.find(isGoingOn);
  const latest = exports.find((j) => !isGoingOn(j));
  return (
    <Section title="Export">
      {running ? (
        <div data-testid="exporting">
          <div className="flex items-center gap-2">
            <progress
              className="progress progress-primary h-1.5 flex-1"
              value={running.done}
              max={running.total}
              aria-label="Exporting"
            />
            <button className="btn btn-xs" onClick={() => void cancelJob(running.id)}>
              <X size={12} aria-hidden /> Cancel
            </button>
          </div>
          <p className="mt-1 font-mono text-[11px] text-base-content/70">
            {running.state === 'waiting'
              ? 'Waiting for its turn'
              : `${running.done} of ${running.total} frames ${timeLeft(running.startedAt, running.done, running.total) ?? ''}`}
          </p>
        </div>
      ) : (
        <button
          className="btn btn-sm btn-primary w-full"
          disabled={!moves}
          onClick={() => void startExport()}
          title={
            moves
              ? 'H.264 MP4, full size, exact rate, with sound'
              : 'Find the camera’s motion or follow a point first'
          }
        >
          <Film size={14} aria-hidden /> Export movie
        </button>
      )}
      {!running && moves && bare > 0 && (
        <p className="mt-1.5 text-warning">
          Bare edges will be black in {bare === 1 ? 'one frame' : `${bare} frames`}.
        </p>
      )}
      {latest?.state === 'done' && (
        <a
          className="btn btn-sm btn-soft btn-accent mt-2 w-full"
          href={`/api/exports/${latest.id}/file`}
          download
          data-testid="download"
        >
          <Download size={14} aria-hidden /> {latest.fileName}
        </a>
      )}
      {(latest?.state === 'interrupted' || latest?.state === 'failed') && (
        <p className="mt-1.5 flex items-center gap-2 text-warning">
          <span className="flex-1">
            {latest.error ?? 'The last export was cut short when the server stopped.'}
          </span>
          <button className="btn btn-xs" onClick={() => void startAgain(latest.id)}>
            Start again
          </button>
        </p>
      )}
      <div className="mt-4 space-y-2 border-t border-base-300 pt-3">
        <h3 className="text-base-content/75">Tracks and motion</h3>
        <div className="flex gap-4">
          <Toggle
            label="Chosen tracks only"
            on={out.chosenOnly}
            onChange={(chosenOnly) => set({ chosenOnly })}
          />
          <Toggle label="Range only" on={out.rangeOnly} onChange={(rangeOnly) => set({ rangeOnly })} />
        </div>
        <div className="grid grid-cols-2 gap-1.5">
          {(['tracks-csv', 'tracks-json', 'tracks-copy', 'motion-json', 'still', 'import'] as const).map(
            (id) => (
              <Out key={id} id={id} />
            ),
          )}
        </div>
      </div>
    </Section>
  );
}

const short = {
  'tracks-csv': 'Tracks CSV',
  'tracks-json': 'Tracks JSON',
  'tracks-copy': 'Copy tracks',
  'motion-json': 'Motion JSON',
  still: 'Frame as PNG',
  import: 'Take tracks in…',
};

function Out({ id }: { id: keyof typeof short }) {
  return <ActionButton id={id} className="btn-xs justify-start gap-1.5 font-normal" text={short[id]} />;
}

function Toggle({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-1.5">
      <input
        type="checkbox"
        className="checkbox checkbox-xs rounded-[3px]"
        checked={on}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
