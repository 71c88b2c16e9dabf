import type { ClipCard as Clip, JobView } from '@lurn/contract';
import { Link2 } from 'lucide-react';
import { useRef, useState, type RefObject } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { attempt } from '../api/attempt';
import { api } from '../api/client';
import { sendOriginal } from '../state/uploads';
import { Dropdown } from '../ui/dropdown';
import { bytes, clock, spokenRate, timeLeft } from '../ui/format';
import { NameField } from '../ui/name-field';

/** One clip of a project: its picture, what it is, how it stands, and what can be done with it. */
export function ClipCard({ clip, job }: { clip: Clip; job: JobView | undefined }) {
  const [renaming, setRenaming] = useState(false);
  const opens = clip.state !== 'failed';
  const to = `/projects/${clip.projectId}/clips/${clip.id}`;
  return (
    <article
      className="group relative self-start rounded-box border border-base-300 bg-base-200"
      data-testid="clip-card"
    >
      <div className="aspect-video overflow-hidden rounded-t-box bg-base-300">
        <Picture clip={clip} job={job} to={to} />
      </div>
      <div className="flex items-start gap-2 px-3.5 py-2.5">
        <div className="min-w-0 flex-1">
          {renaming ? (
            <NameField
              label="Name of the clip"
              name={clip.name}
              onKeep={(name) => void attempt(() => api.renameClip(clip.id, name))}
              onDone={() => setRenaming(false)}
            />
          ) : (
            <h2 className="truncate font-medium" title={clip.name}>
              {opens ? <Link to={to}>{clip.name}</Link> : clip.name}
            </h2>
          )}
          <p className="mt-0.5 font-mono text-[11px] text-base-content/75">
            {clip.width}×{clip.height} · {spokenRate(clip)}
            {clip.pixelAspect !== '1:1' && ` · pixels ${clip.pixelAspect}`}
            {clip.interlaced && (clip.asFields ? ' · fields' : ' · interlaced')}
            {clip.frames > 0 && ` · ${clock(clip.seconds)}`} · {bytes(clip.bytes)}
          </p>
          {clip.outside && (
            <p
              className="mt-0.5 flex items-center gap-1 text-[11px] text-base-content/75"
              title={clip.outside}
            >
              <Link2 size={12} aria-hidden /> <span className="truncate">Stays in {clip.outside}</span>
            </p>
          )}
          {clip.state === 'ready' && clip.error && (
            <p className="mt-1 text-xs text-warning" data-testid="clip-trouble">
              {clip.error}
            </p>
          )}
          <WayOn clip={clip} />
        </div>
        <Menu clip={clip} job={job} onRename={() => setRenaming(true)} />
      </div>
    </article>
  );
}

/** Milliseconds until a first picture that was not there yet is asked for again. */
const lookAgainAfter = 400;

function Picture({ clip, job, to }: { clip: Clip; job: JobView | undefined; to: string }) {
  const [asked, setAsked] = useState(0);
  const [seen, setSeen] = useState(false);
  if (clip.state === 'failed')
    return <p className="flex h-full items-center px-5 text-error">{clip.error}</p>;
  const ready = clip.state === 'ready';
  return (
    <Link to={to} aria-label={`Open ${clip.name}`} className="relative block h-full">
      <img
        src={ready ? `/api/clips/${clip.id}/poster` : `/api/clips/${clip.id}/early/0?asked=${asked}`}
        alt=""
        loading="lazy"
        onLoad={() => setSeen(true)}
        onError={() => !ready && setTimeout(() => setAsked(asked + 1), lookAgainAfter)}
        className={`h-full w-full object-cover transition-transform duration-300 group-hover:scale-[1.03] ${ready || seen ? '' : 'opacity-0'}`}
      />
      {!ready && (
        <div className="absolute inset-x-0 bottom-0 bg-base-300/85 px-4 py-2.5">
          <p className="mb-1 flex justify-between text-base-content/85" data-testid="reading">
            {!job || job.state === 'waiting' ? (
              'Waiting for its turn'
            ) : (
              <>
                <span>
                  Reading frames: {job.done}
                  {job.total > 0 && ` of about ${job.total}`}
                </span>
                <span>{timeLeft(job.startedAt, job.done, job.total)}</span>
              </>
            )}
          </p>
          <progress
            className="progress progress-primary block h-1.5"
            value={job?.total ? job.done : undefined}
            max={job?.total || 1}
            aria-label={`Reading ${clip.name}`}
          />
        </div>
      )}
    </Link>
  );
}

/** What helps a clip that is in trouble. */
function WayOn({ clip }: { clip: Clip }) {
  const picker = useRef<HTMLInputElement>(null);
  const lost = clip.trouble === 'missing';
  if (clip.trouble !== 'changed' && clip.state !== 'failed' && !lost) return null;
  return (
    <p className="mt-2 flex gap-2">
      {!lost && (
        <button className="btn btn-xs" onClick={() => void attempt(() => api.readAgain(clip.id))}>
          Read again
        </button>
      )}
      {(lost || clip.state === 'failed') && (
        <button className="btn btn-xs" onClick={() => picker.current?.click()}>
          Add its file
        </button>
      )}
      <FilePicker ref={picker} clip={clip} label={`The file of ${clip.name}`} />
    </p>
  );
}

/** Chooses the file that takes the place of a clip's own: its tracks are kept where size and length agree. */
function FilePicker({
  ref,
  clip,
  label,
}: {
  ref: RefObject<HTMLInputElement | null>;
  clip: Clip;
  label: string;
}) {
  return (
    <input
      ref={ref}
      type="file"
      hidden
      aria-label={label}
      onChange={(event) => {
        const [file] = event.target.files ?? [];
        if (file) sendOriginal(clip.projectId, clip.id, file);
        event.target.value = '';
      }}
    />
  );
}

function Menu({ clip, job, onRename }: { clip: Clip; job: JobView | undefined; onRename: () => void }) {
  const picker = useRef<HTMLInputElement>(null);
  const remove = (): Promise<void> =>
    attempt(async () => {
      await api.deleteClip(clip.id);
      toast(`"${clip.name}" is deleted.`, {
        duration: 12_000,
        action: { label: 'Undo', onClick: () => void attempt(() => api.restoreClip(clip.id)) },
      });
    });
  const items: { label: string; run: () => void; danger?: boolean }[] = [
    { label: 'Rename', run: onRename },
    ...(clip.interlaced && clip.state === 'ready'
      ? [
          {
            label: clip.asFields ? 'Take as whole frames' : 'Take each field as a frame',
            run: () => void attempt(() => api.readAgain(clip.id, !clip.asFields)),
          },
        ]
      : []),
    ...(clip.state === 'ready'
      ? [{ label: 'Read again', run: () => void attempt(() => api.readAgain(clip.id)) }]
      : []),
    ...(clip.state === 'reading' && job
      ? [{ label: 'Stop reading', run: () => void attempt(() => api.cancel(job.id)) }]
      : []),
    ...(clip.state === 'ready' && !clip.outside
      ? [{ label: 'Replace its file…', run: () => picker.current?.click() }]
      : []),
    { label: 'Delete', run: () => void remove(), danger: true },
  ];
  return (
    <>
      <Dropdown label={`More about ${clip.name}`} items={items} />
      <FilePicker ref={picker} clip={clip} label={`Another file for ${clip.name}`} />
    </>
  );
}
