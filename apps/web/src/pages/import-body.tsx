import type { ClipView } from '@lurn/contract';
import {
  angleUnits,
  lengthUnits,
  trackColumns,
  type NamedTrack,
  type TableMapping,
  type TrackColumn,
} from '@lurn/core';
import { FileInput } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { readTaken } from '../state/read-tracks';
import { addTracks, changeMapping, takeFile, useTracksIn } from '../state/tracks-in';
import { trackColour } from '../ui/track-colour';

/** What is in a text of tracks, and what its columns mean. */
export function ImportBody({ clip, onClose }: { clip: ClipView; onClose: () => void }) {
  const taken = useTracksIn((s) => s.taken);
  const failure = useTracksIn((s) => s.failure);
  const [busy, setBusy] = useState(false);
  const read = useMemo(() => (taken ? readTaken(taken, clip) : null), [taken, clip]);
  if (!taken || !read) return <Choose failure={failure} onClose={onClose} />;
  const { tracks, errors } = read;
  const samples = tracks.reduce(
    (sum, { samples: s }) => sum + s.state.filter((state) => state > 0).length,
    0,
  );
  return (
    <>
      <div className="grid grid-cols-[300px_minmax(0,1fr)] gap-5">
        <div className="min-w-0 space-y-2">
          <p className="truncate text-base-content/80">
            From <span className="font-medium">{taken.from}</span>
          </p>
          {taken.table && taken.mapping && (
            <Mapping
              heading={taken.table.heading ?? taken.table.rows[0].map((_, i) => `Column ${i + 1}`)}
              example={taken.table.rows[0] ?? []}
              mapping={taken.mapping}
            />
          )}
        </div>
        <div className="min-w-0 space-y-2">
          <Preview clip={clip} tracks={tracks} />
          {read.failure && (
            <p className="text-warning" role="alert">
              {read.failure}
            </p>
          )}
          {!read.failure && (
            <p data-testid="import-says">
              {tracks.length === 1 ? 'One track' : `${tracks.length} tracks`}, {samples} places
              {errors.length > 0 &&
                `; ${errors.length === 1 ? 'one line' : `${errors.length} lines`} cannot be used:`}
            </p>
          )}
          {errors.length > 0 && (
            <ul
              className="max-h-24 overflow-y-auto rounded-md bg-base-200 px-3 py-1.5 text-[12px] text-warning"
              aria-label="Lines that cannot be used"
              // A list that scrolls can be reached by keyboard.
              // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
              tabIndex={0}
            >
              {errors.slice(0, mostErrors).map(({ line, message }) => (
                <li key={line}>
                  Line {line}: {message}
                </li>
              ))}
              {errors.length > mostErrors && <li>… and {errors.length - mostErrors} more</li>}
            </ul>
          )}
        </div>
      </div>
      <div className="modal-action">
        <button className="btn btn-sm btn-ghost" onClick={onClose}>
          Cancel
        </button>
        <button
          className="btn btn-sm btn-primary"
          disabled={busy || tracks.length === 0}
          onClick={() => {
            setBusy(true);
            void addTracks(tracks).finally(() => setBusy(false));
          }}
        >
          {errors.length > 0 ? 'Take in what can be used' : 'Take in'}
        </button>
      </div>
    </>
  );
}

/** So many wrong lines are told one by one. */
const mostErrors = 100;

function Choose({ failure, onClose }: { failure: string | null; onClose: () => void }) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      {failure && (
        <p className="mb-3 text-warning" role="alert">
          {failure}
        </p>
      )}
      <button
        className="flex w-full flex-col items-center gap-2 rounded-box border-2 border-dashed border-base-content/20 p-10 hover:border-primary/60"
        onClick={() => picker.current?.click()}
      >
        <FileInput size={22} className="text-primary" aria-hidden />
        <span className="font-medium">Drop a file here, or paste</span>
        <span className="text-base-content/75">
          Tables of comma, semicolon or tab separated values, or a lurn-tracks JSON file; click to choose one
        </span>
      </button>
      <input
        ref={picker}
        type="file"
        hidden
        accept=".csv,.tsv,.txt,.json"
        data-testid="tracks-picker"
        aria-label="A file of tracks"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) void takeFile(file);
          event.target.value = '';
        }}
      />
      <div className="modal-action">
        <button className="btn btn-sm" onClick={onClose}>
          Close
        </button>
      </div>
    </>
  );
}

const spoken: Record<TrackColumn, string> = {
  track: "Track's name",
  frame: 'Frame',
  x: 'x',
  y: 'y',
  confidence: 'Confidence',
  rotation: 'Rotation',
  scale: 'Scale',
  state: 'State',
};

const unitWords = { pixels: 'Pixels', percent: 'Per cent of the picture', share: 'Share of it, 0 to 1' };
const angleWords = { radians: 'Radians', degrees: 'Degrees' };

/** Which column holds what, and how its numbers are meant. */
function Mapping({
  heading,
  example,
  mapping,
}: {
  heading: readonly string[];
  example: readonly string[];
  mapping: TableMapping;
}) {
  const { columns } = mapping;
  const put = (column: TrackColumn, index: number): void => {
    const { [column]: _, ...others } = columns;
    changeMapping({ columns: index < 0 ? others : { ...others, [column]: index } });
  };
  return (
    <div className="grid grid-cols-[100px_minmax(0,1fr)] items-center gap-x-2 gap-y-1.5">
      {trackColumns.map((column) => {
        const needed = ['frame', 'x', 'y'].includes(column);
        return (
          <label key={column} className="col-span-2 grid grid-cols-subgrid items-center">
            <span className={needed ? 'font-medium' : 'text-base-content/80'}>{spoken[column]}</span>
            <select
              className={`select select-xs w-full ${needed && columns[column] === undefined ? 'select-warning' : ''}`}
              aria-label={`Column of ${spoken[column]}`}
              value={columns[column] ?? -1}
              onChange={(event) => put(column, Number(event.target.value))}
            >
              <option value={-1}>{needed ? 'Choose…' : 'Not there'}</option>
              {heading.map((name, i) => (
                <option key={i} value={i}>
                  {name} {example[i] ? `(${example[i]})` : ''}
                </option>
              ))}
            </select>
          </label>
        );
      })}
      <label className="col-span-2 grid grid-cols-subgrid items-center">
        <span>x and y are in</span>
        <select
          className="select select-xs w-full"
          aria-label="x and y are in"
          value={mapping.units}
          onChange={(event) => changeMapping({ units: event.target.value as TableMapping['units'] })}
        >
          {lengthUnits.map((unit) => (
            <option key={unit} value={unit}>
              {unitWords[unit]}
            </option>
          ))}
        </select>
      </label>
      <label className="col-span-2 grid grid-cols-subgrid items-center">
        <span>y goes</span>
        <select
          className="select select-xs w-full"
          aria-label="y goes"
          value={mapping.yUp ? 'up' : 'down'}
          onChange={(event) => changeMapping({ yUp: event.target.value === 'up' })}
        >
          <option value="down">Downwards</option>
          <option value="up">Upwards</option>
        </select>
      </label>
      <label className="col-span-2 grid grid-cols-subgrid items-center">
        <span>First frame is</span>
        <span className="flex items-center gap-2">
          <input
            className="input input-xs w-20 text-right font-mono"
            type="number"
            value={-mapping.frameOffset}
            aria-label="The number its first frame has"
            onChange={(event) => changeMapping({ frameOffset: -Math.round(Number(event.target.value) || 0) })}
          />
          there, 0 here
        </span>
      </label>
      {columns.rotation !== undefined && (
        <label className="col-span-2 grid grid-cols-subgrid items-center">
          <span>Rotation is in</span>
          <select
            className="select select-xs w-full"
            aria-label="Rotation is in"
            value={mapping.angles}
            onChange={(event) => changeMapping({ angles: event.target.value as TableMapping['angles'] })}
          >
            {angleUnits.map((unit) => (
              <option key={unit} value={unit}>
                {angleWords[unit]}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}

/** The tracks over the picture, as they would lie. */
function Preview({ clip, tracks }: { clip: ClipView; tracks: readonly NamedTrack[] }) {
  const ends = tracks
    .map(({ samples }) => samples.state.findIndex((state) => state > 0))
    .filter((k) => k >= 0);
  const first = ends.length > 0 ? Math.min(...ends) : 0;
  const [wanted, setWanted] = useState<number | null>(null);
  const frame = Math.min(wanted ?? first, clip.frames - 1);
  const size = clip.width / 90;
  return (
    <figure>
      <div
        className="relative overflow-hidden rounded-md bg-base-300"
        style={{ aspectRatio: `${clip.width}/${clip.height}` }}
      >
        <img
          src={`/api/clips/${clip.id}/frames/${frame}`}
          alt={`Frame ${frame}`}
          className="h-full w-full object-cover"
        />
        <svg
          viewBox={`0 0 ${clip.width} ${clip.height}`}
          className="absolute inset-0 h-full w-full"
          data-testid="import-preview"
        >
          {tracks.map(({ name, samples }, i) => {
            const here = samples.found(frame) ? samples.place(frame) : null;
            return (
              <g key={name} stroke={trackColour(i)} fill="none" strokeWidth={clip.width / 500}>
                <path d={pathOf(samples)} strokeOpacity={0.8} />
                {here && (
                  <path
                    d={`M${here.x - size} ${here.y}h${2 * size}M${here.x} ${here.y - size}v${2 * size}`}
                    strokeWidth={clip.width / 300}
                  />
                )}
              </g>
            );
          })}
        </svg>
      </div>
      <figcaption className="mt-1 flex items-center gap-2 text-[11.5px] text-base-content/80">
        <span className="w-20 font-mono">Frame {frame}</span>
        <input
          type="range"
          className="range range-xs flex-1"
          min={0}
          max={clip.frames - 1}
          value={frame}
          aria-label="Frame of the preview"
          onChange={(event) => setWanted(Number(event.target.value))}
        />
      </figcaption>
    </figure>
  );
}

function pathOf(samples: NamedTrack['samples']): string {
  let path = '';
  let open = false;
  for (let k = 0; k < samples.frames; k++) {
    if (samples.found(k)) path += `${open ? 'L' : 'M'}${samples.x[k].toFixed(1)} ${samples.y[k].toFixed(1)}`;
    open = samples.found(k);
  }
  return path;
}
