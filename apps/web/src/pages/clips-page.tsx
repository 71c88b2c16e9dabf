import type { ClipCard as Clip, JobView, ProjectEvent, ProjectView } from '@lurn/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { FolderInput, Search, Upload, X } from 'lucide-react';
import { useEffect, useRef, useState, type DragEvent } from 'react';
import { Link, useParams } from 'react-router';
import { api } from '../api/client';
import { listen } from '../api/events';
import { useSync } from '../state/sync';
import { sendClips, sendPictures, stopSending, useUploads } from '../state/uploads';
import { ErrorNote } from '../ui/error-note';
import { percent } from '../ui/format';
import { ClipCard } from './clip-card';
import { FolderDialog } from './folder-dialog';
import { Header } from './header';
import { LostServer } from './lost-server';
import { SequenceDialog, type FreshSequence } from './sequence-dialog';

const orders: Record<string, (a: Clip, b: Clip) => number> = {
  'Oldest first': (a, b) => a.createdAt.localeCompare(b.createdAt),
  'Newest first': (a, b) => b.createdAt.localeCompare(a.createdAt),
  Name: (a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }),
  Length: (a, b) => b.seconds - a.seconds,
  Size: (a, b) => b.bytes - a.bytes,
};

const isPicture = ({ name }: File): boolean => /\.(png|jpe?g|tiff?)$/i.test(name);
const isZip = ({ name }: File): boolean => /\.zip$/i.test(name);

/** A project's clips, and where new ones are dropped. */
export function ClipsPage() {
  const { projectId = '' } = useParams();
  const { project, jobs } = useProject(projectId);
  const [over, setOver] = useState(false);
  const [order, setOrder] = useState('Oldest first');
  const [wanted, setWanted] = useState('');
  const [sequence, setSequence] = useState<FreshSequence | null>(null);
  const [browsing, setBrowsing] = useState(false);
  const folders = useQuery({ queryKey: ['media'], queryFn: api.folders });
  const sending = useUploads((s) => s.sending).filter((s) => s.project === projectId);

  /** Videos are sent at once; pictures wait until their rate is known. */
  const take = (files: readonly File[]): void => {
    const pictures = files.filter(isPicture);
    const zips = files.filter(isZip);
    sendClips(
      projectId,
      files.filter((file) => !isPicture(file) && !isZip(file)),
    );
    if (pictures.length > 0)
      setSequence({ name: pictures[0].name.replace(/[\W_]*\d*\.\w+$/, '') || 'Sequence', files: pictures });
    else if (zips.length > 0) setSequence({ name: zips[0].name.replace(/\.zip$/i, ''), files: zips });
  };
  const onDrop = (event: DragEvent): void => {
    event.preventDefault();
    setOver(false);
    take([...event.dataTransfer.files]);
  };
  const shown = (project.data?.clips ?? [])
    .filter((clip) => clip.name.toLowerCase().includes(wanted.trim().toLowerCase()))
    .sort(orders[order]);

  return (
    <div
      className="flex h-full flex-col"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setOver(false)}
      onDrop={onDrop}
    >
      <Header>
        <h1 className="font-medium">{project.data?.name}</h1>
      </Header>
      <LostServer />
      {project.isError ? (
        <ErrorNote message={project.error.message}>
          <Link className="btn btn-sm" to="/">
            All projects
          </Link>
        </ErrorNote>
      ) : (
        <main className="min-h-0 flex-1 overflow-y-auto p-6">
          <div className="mx-auto mb-4 flex max-w-5xl items-center gap-3">
            <label className="input input-sm w-60">
              <Search size={14} className="opacity-60" aria-hidden />
              <input
                type="search"
                placeholder="Search clips"
                aria-label="Search clips"
                value={wanted}
                onChange={(event) => setWanted(event.target.value)}
              />
            </label>
            <select
              className="select select-sm w-36"
              aria-label="Order of clips"
              value={order}
              onChange={(event) => setOrder(event.target.value)}
            >
              {Object.keys(orders).map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
            <span className="text-base-content/75">
              {shown.length === 1 ? '1 clip' : `${shown.length} clips`}
            </span>
            {(folders.data?.length ?? 0) > 0 && (
              <button className="btn btn-sm ml-auto" onClick={() => setBrowsing(true)}>
                <FolderInput size={14} aria-hidden /> Open where it lies
              </button>
            )}
          </div>
          <div className="mx-auto grid max-w-5xl grid-cols-[repeat(auto-fill,minmax(288px,1fr))] gap-5">
            {shown.map((clip) => (
              <ClipCard key={clip.id} clip={clip} job={jobs[clip.id]} />
            ))}
            {sending.map((s) => (
              <div
                key={s.id}
                className="flex min-h-[236px] flex-col justify-end gap-2 rounded-box border border-base-300 bg-base-200 p-4"
                data-testid="uploading"
              >
                <p className="truncate font-medium">{s.name}</p>
                <progress
                  className="progress progress-primary"
                  value={s.share}
                  max={1}
                  aria-label={`Uploading ${s.name}`}
                />
                <p className="flex justify-between text-base-content/70">
                  {s.waiting ? 'Waiting for the connection' : `Uploading, ${percent(s.share, 0)}`}
                  <button className="btn btn-ghost btn-xs" onClick={() => stopSending(s.id)}>
                    <X size={13} aria-hidden /> Cancel
                  </button>
                </p>
              </div>
            ))}
            <DropZone over={over} onFiles={take} />
            {project.data?.clips.length === 0 && sending.length === 0 && <FirstClip />}
          </div>
          {wanted && shown.length === 0 && (
            <p className="mx-auto mt-4 max-w-5xl text-base-content/70">No clip is called “{wanted}”.</p>
          )}
          <Unfinished projectId={projectId} sending={sending.map((s) => s.name)} />
        </main>
      )}
      <SequenceDialog
        sequence={sequence}
        onDone={(chosen) => {
          if (chosen && sequence) {
            if (isZip(sequence.files[0])) {
              const [zip] = sequence.files;
              sendClips(projectId, [new File([zip], `${chosen.name}.zip`)], chosen.rate);
            } else sendPictures(projectId, chosen.name, chosen.rate, sequence.files);
          }
          setSequence(null);
        }}
      />
      <FolderDialog projectId={projectId} open={browsing} onClose={() => setBrowsing(false)} />
    </div>
  );
}

/** The project as it stands, kept up to date, and the import jobs of its clips. */
function useProject(projectId: string) {
  const client = useQueryClient();
  const project = useQuery({
    queryKey: ['project', projectId],
    queryFn: () => api.project(projectId),
    retry: false,
  });
  const [jobs, setJobs] = useState<Record<string, JobView>>({});
  useEffect(() => {
    const change = (alter: (clips: Clip[]) => Clip[]): void => {
      client.setQueryData<ProjectView>(
        ['project', projectId],
        (view) => view && { ...view, clips: alter(view.clips) },
      );
    };
    const refetch = (): void => void client.invalidateQueries({ queryKey: ['project', projectId] });
    const onEvent = (event: ProjectEvent): void => {
      if (event.type === 'clip') {
        const { clip } = event;
        change((clips) =>
          clips.some((c) => c.id === clip.id)
            ? clips.map((c) => (c.id === clip.id ? clip : c))
            : [...clips, clip],
        );
      } else if (event.type === 'clip-removed') change((clips) => clips.filter((c) => c.id !== event.clipId));
      else if (event.type === 'job' && event.job.kind === 'import')
        setJobs((all) => ({ ...all, [event.job.clipId]: event.job }));
      else if (event.type === 'reset') refetch();
    };
    return listen(projectId, onEvent, (connected) => {
      useSync.setState({ connected });
      if (connected) refetch();
    });
  }, [client, projectId]);
  return { project, jobs };
}

/** What to do in a project that has no clip yet. */
function FirstClip() {
  const steps = [
    'Bring a clip in: drop it here, or choose it. It is read while you look through it; the file itself is never changed.',
    'Open it and press “Find the camera’s motion”, or place a point yourself on what should hold still.',
    'Hold it, or smooth the shake; hide the bare edges; export.',
  ];
  return (
    <ol
      className="flex flex-col justify-center gap-3 leading-relaxed text-base-content/80"
      data-testid="first-clip"
    >
      {steps.map((text, i) => (
        <li key={text} className="flex gap-3">
          <span className="flex size-6 shrink-0 items-center justify-center rounded-full bg-base-300 text-[12px]">
            {i + 1}
          </span>
          {text}
        </li>
      ))}
    </ol>
  );
}

function DropZone({ over, onFiles }: { over: boolean; onFiles: (files: File[]) => void }) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <button
        className={`flex min-h-[236px] flex-col items-center justify-center gap-2 rounded-box border-2 border-dashed transition-colors ${over ? 'border-primary bg-primary/10' : 'border-base-content/20 hover:border-primary/60'}`}
        onClick={() => picker.current?.click()}
      >
        <Upload size={22} className="text-primary" aria-hidden />
        <span className="font-medium">Drop clips here</span>
        <span className="px-4 text-base-content/75">
          Videos, pictures of a sequence, or a zip of them; or click to choose
        </span>
      </button>
      <input
        ref={picker}
        type="file"
        multiple
        hidden
        accept="video/*,.mkv,.mov,.mp4,.webm,.avi,.ts,.mts,.m2ts,.mpg,.mxf,.y4m,.png,.jpg,.jpeg,.tif,.tiff,.zip"
        data-testid="file-picker"
        onChange={(event) => {
          onFiles([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
    </>
  );
}

/** Uploads that this browser cannot go on with by itself. */
function Unfinished({ projectId, sending }: { projectId: string; sending: string[] }) {
  const client = useQueryClient();
  const key = ['unfinished', projectId];
  const uploads = useQuery({
    queryKey: key,
    queryFn: () => api.unfinished(projectId),
    refetchInterval: 5000,
  });
  const waiting = uploads.data?.filter(({ name }) => !sending.includes(name)) ?? [];
  const drop = async (id: string): Promise<void> => {
    await fetch(`/api/uploads/${id}`, { method: 'DELETE', headers: { 'Tus-Resumable': '1.0.0' } });
    await client.invalidateQueries({ queryKey: key });
  };
  if (waiting.length === 0) return null;
  return (
    <ul className="mx-auto mt-5 max-w-5xl space-y-1" data-testid="unfinished">
      {waiting.map(({ id, name, done, bytes }) => (
        <li key={id} className="flex items-center gap-3 text-base-content/75">
          <span>
            “{name}” arrived to {percent(done / bytes, 0)}. Choose the file again to go on from there.
          </span>
          <button className="btn btn-ghost btn-xs" onClick={() => void drop(id)}>
            Throw away
          </button>
        </li>
      ))}
    </ul>
  );
}
