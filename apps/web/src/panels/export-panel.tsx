import type { ExportRequest, JobView } from '@lurn/contract';
import { Download, Film, Trash2, X } from 'lucide-react';
import type { ReactNode } from 'react';
import { codecKinds, isSteadied } from '@lurn/core';
import { isGoingOn, useDocument } from '../state/document';
import { cancelJob, clearExport, startAgain } from '../state/editor';
import { exportPresets, roughBytes, useExporting } from '../state/exporting';
import { startExport } from '../state/steadying';
import { ActionButton } from '../actions/action-button';
import { useTracksOut } from '../state/tracks-out';
import { Fold } from '../ui/fold';
import { bytes, timeLeft } from '../ui/format';
import { IconToggle } from '../ui/icon-toggle';
import { Section } from './section';

/** Getting things out: the movie, the tracks, the motion. */
export function ExportPanel() {
  const clip = useDocument((s) => s.clip);
  const out = useTracksOut();
  const set = useTracksOut.setState;
  if (!clip) return null;
  return (
    <Section title="Export">
      <MovieExport />
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
          {(
            [
              'tracks-csv',
              'tracks-json',
              'tracks-copy',
              'motion-json',
              'motion-csv',
              'motion-corners',
              'still',
              'still-tiff',
              'import',
            ] as const
          ).map((id) => (
            <Out key={id} id={id} />
          ))}
        </div>
      </div>
    </Section>
  );
}

/** The movie: what it is written as, the queue, and what is finished. */
function MovieExport() {
  const jobs = useDocument((s) => s.jobs);
  const moves = useDocument(
    (s) => s.result !== null && s.steady !== null && isSteadied(s.result.motion, s.steady),
  );
  const bare = useDocument((s) => s.result?.bare.length ?? 0);
  const edge = useDocument((s) => s.steady?.edge);
  const exports = jobs
    .filter((j) => j.kind === 'export')
    .sort((a, b) => b.startedAt.localeCompare(a.startedAt));
  const going = exports.filter(isGoingOn);
  const ended = exports.filter((job) => !isGoingOn(job) && job.state !== 'cancelled');
  return (
    <>
      <Encoding />
      <button
        className="btn btn-sm btn-primary mt-2.5 w-full"
        disabled={!moves}
        onClick={() => void startExport()}
        title={moves ? undefined : 'Find the camera’s motion or follow a point first'}
      >
        <Film size={14} aria-hidden /> {going.length > 0 ? 'Export another' : 'Export movie'}
      </button>
      <RoughSize />
      {moves && bare > 0 && edge === 'black' && (
        <p className="mt-1.5 text-warning">
          Bare edges will be black in {bare === 1 ? 'one frame' : `${bare} frames`}.
        </p>
      )}
      {going.map((job) => (
        <div key={job.id} className="mt-2" data-testid="exporting">
          <div className="flex items-center gap-2">
            <progress
              className="progress progress-primary h-1.5 flex-1"
              value={job.done}
              max={job.total}
              aria-label={`Exporting ${job.fileName ?? ''}`}
            />
            <button className="btn btn-xs" onClick={() => void cancelJob(job.id)}>
              <X size={12} aria-hidden /> Cancel
            </button>
          </div>
          <p className="mt-1 font-mono text-[11px] text-base-content/70">
            {job.state === 'waiting'
              ? 'Waiting for its turn'
              : `${job.done} of ${job.total} frames ${timeLeft(job.startedAt, job.done, job.total) ?? ''}`}
          </p>
        </div>
      ))}
      <ul className="mt-2 max-h-44 space-y-1.5 overflow-y-auto" aria-label="Exports that have ended">
        {ended.map((job) => (
          <Ended key={job.id} job={job} />
        ))}
      </ul>
    </>
  );
}

/** A finished movie to take away, or what became of one that is not. */
function Ended({ job }: { job: JobView }) {
  const clear = (
    <IconToggle label={`Clear ${job.fileName ?? 'it'}`} onClick={() => void clearExport(job.id)}>
      <Trash2 size={13} />
    </IconToggle>
  );
  if (job.state === 'done')
    return (
      <li className="flex items-center gap-1.5">
        <a
          className="btn btn-sm btn-soft btn-accent min-w-0 flex-1 justify-start"
          href={`/api/exports/${job.id}/file`}
          download
          data-testid="download"
        >
          <Download size={14} aria-hidden className="shrink-0" />
          <span className="truncate">{job.fileName}</span>
        </a>
        {clear}
      </li>
    );
  return (
    <li className="flex items-center gap-1.5 text-warning">
      <span className="flex-1 leading-snug">
        {job.error ?? 'The export was cut short when the server stopped.'}
      </span>
      <button className="btn btn-xs" onClick={() => void startAgain(job.id)}>
        Start again
      </button>
      {clear}
    </li>
  );
}

/** What the movie is written as: by what it is for, or each setting by itself. */
function Encoding() {
  const request = useExporting((s) => s.request);
  const set = (part: ExportRequest): void => useExporting.setState({ request: { ...request, ...part } });
  const preset = exportPresets.find(
    ({ request: one }) =>
      one.codec === request.codec && one.container === request.container && request.bits === undefined,
  );
  const facts = codecKinds[request.codec ?? 'h264'];
  return (
    <>
      <select
        className="select select-sm w-full"
        value={preset?.id ?? 'own'}
        aria-label="What the movie is for"
        onChange={({ target: { value } }) => {
          const chosen = exportPresets.find(({ id }) => id === value);
          if (chosen) useExporting.setState({ request: chosen.request });
        }}
      >
        {exportPresets.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
        {!preset && <option value="own">Own settings</option>}
      </select>
      <Fold name="Settings">
        <div className="space-y-1.5 pt-1" data-testid="encoding">
          <Setting label="Codec">
            <select
              className="select select-xs w-36"
              value={request.codec ?? 'h264'}
              onChange={({ target: { value } }) => {
                const codec = value as NonNullable<ExportRequest['codec']>;
                const [container] = codecKinds[codec].containers;
                useExporting.setState({ request: { codec, container } });
              }}
            >
              {Object.entries(codecKinds).map(([codec, { name }]) => (
                <option key={codec} value={codec}>
                  {name}
                </option>
              ))}
            </select>
          </Setting>
          <Setting label="File">
            <select
              className="select select-xs w-36"
              value={request.container ?? facts.containers[0]}
              onChange={({ target: { value } }) => set({ container: value as ExportRequest['container'] })}
            >
              {facts.containers.map((one) => (
                <option key={one} value={one}>
                  {one === 'png' ? 'zip of pictures' : one.toUpperCase()}
                </option>
              ))}
            </select>
          </Setting>
          <Setting label="Bits a level">
            <select
              className="select select-xs w-36"
              value={request.bits ?? 'own'}
              onChange={({ target: { value } }) =>
                set({ bits: value === 'own' ? undefined : (Number(value) as ExportRequest['bits']) })
              }
            >
              <option value="own">as the clip has</option>
              {facts.bits.map((bits) => (
                <option key={bits} value={bits}>
                  {bits}
                </option>
              ))}
            </select>
          </Setting>
        </div>
      </Fold>
    </>
  );
}

function Setting({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="flex items-center justify-between gap-2">
      <span>{label}</span>
      {children}
    </label>
  );
}

/** How large the movie will be, about. */
function RoughSize() {
  const clip = useDocument((s) => s.clip);
  const steady = useDocument((s) => s.steady);
  const request = useExporting((s) => s.request);
  if (!clip || !steady) return null;
  const { width, height } = steady.output ?? clip;
  const frames = 1 + steady.range.last - steady.range.first;
  return (
    <p className="mt-1.5 text-[11.5px] text-base-content/75" data-testid="rough-size">
      {frames} frames of {width}×{height}, about {bytes(roughBytes(request, width * height, frames))}.
    </p>
  );
}

const short = {
  'tracks-csv': 'Tracks CSV',
  'tracks-json': 'Tracks JSON',
  'tracks-copy': 'Copy tracks',
  'motion-json': 'Motion JSON',
  'motion-csv': 'Motion CSV',
  'motion-corners': 'Corners CSV',
  still: 'Frame as PNG',
  'still-tiff': 'Frame as TIFF',
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
