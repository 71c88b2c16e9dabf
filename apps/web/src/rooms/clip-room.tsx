import type { ClipCard, JobView, ProjectEvent, ProjectView } from '@lurn/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Trash2, Upload, X } from 'lucide-react';
import { useEffect, useRef, useState, type DragEvent } from 'react';
import { Link, useParams } from 'react-router';
import { toast } from 'sonner';
import { api, upload } from '../api/client';
import { listen } from '../api/events';
import { ErrorNote } from '../ui/error-note';
import { bytes, clock, percent, secondsOf, spokenRate } from '../ui/format';
import { Header } from './header';

interface Sending {
  id: number;
  name: string;
  share: number;
  stop: AbortController;
}

/** A project's clips, and where new ones are dropped. */
export function ClipRoom() {
  const { projectId = '' } = useParams();
  const client = useQueryClient();
  const project = useQuery({
    queryKey: ['project', projectId],
    queryFn: () => api.project(projectId),
    retry: false,
  });
  const [jobs, setJobs] = useState<Record<string, JobView>>({});
  const [sending, setSending] = useState<Sending[]>([]);
  const [over, setOver] = useState(false);
  const picker = useRef<HTMLInputElement>(null);

  useEffect(() => {
    const change = (alter: (clips: ClipCard[]) => ClipCard[]): void => {
      client.setQueryData<ProjectView>(
        ['project', projectId],
        (view) => view && { ...view, clips: alter(view.clips) },
      );
    };
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
      else if (event.type === 'reset') void client.invalidateQueries({ queryKey: ['project', projectId] });
    };
    return listen(
      projectId,
      onEvent,
      (connected) => connected && void client.invalidateQueries({ queryKey: ['project', projectId] }),
    );
  }, [client, projectId]);

  const send = async (files: Iterable<File>): Promise<void> => {
    for (const file of files) {
      const item: Sending = { id: Math.random(), name: file.name, share: 0, stop: new AbortController() };
      setSending((all) => [...all, item]);
      try {
        await upload(
          projectId,
          file,
          (share) => setSending((all) => all.map((s) => (s.id === item.id ? { ...s, share } : s))),
          item.stop.signal,
        );
      } catch (error) {
        toast.error((error as Error).message, { duration: 10_000 });
      } finally {
        setSending((all) => all.filter((s) => s.id !== item.id));
      }
    }
  };
  const onDrop = (event: DragEvent): void => {
    event.preventDefault();
    setOver(false);
    void send([...event.dataTransfer.files]);
  };

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
      {project.isError ? (
        <ErrorNote message={project.error.message}>
          <Link className="btn btn-sm" to="/">
            All projects
          </Link>
        </ErrorNote>
      ) : (
        <main className="min-h-0 flex-1 overflow-y-auto p-6">
          <div className="mx-auto grid max-w-5xl grid-cols-[repeat(auto-fill,minmax(288px,1fr))] gap-5">
            {project.data?.clips.map((clip) => (
              <Card key={clip.id} clip={clip} job={jobs[clip.id]} />
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
                  Uploading, {percent(s.share, 0)}
                  <button className="btn btn-ghost btn-xs" onClick={() => s.stop.abort()}>
                    <X size={13} aria-hidden /> Cancel
                  </button>
                </p>
              </div>
            ))}
            <button
              className={`flex min-h-[236px] flex-col items-center justify-center gap-2 rounded-box border-2 border-dashed transition-colors ${over ? 'border-primary bg-primary/10' : 'border-base-content/20 hover:border-primary/60'}`}
              onClick={() => picker.current?.click()}
            >
              <Upload size={22} className="text-primary" aria-hidden />
              <span className="font-medium">Drop a clip here</span>
              <span className="text-base-content/65">
                MP4, MOV, MKV, WebM, AVI, TS or MXF; or click to choose
              </span>
            </button>
            <input
              ref={picker}
              type="file"
              multiple
              hidden
              accept="video/*,.mkv,.mov,.mp4,.webm,.avi,.ts,.mts,.m2ts,.mpg,.mxf,.y4m"
              data-testid="file-picker"
              onChange={(event) => {
                void send([...(event.target.files ?? [])]);
                event.target.value = '';
              }}
            />
          </div>
        </main>
      )}
    </div>
  );
}

function Card({ clip, job }: { clip: ClipCard; job: JobView | undefined }) {
  const remove = async (): Promise<void> => {
    if (!window.confirm(`Delete "${clip.name}" and all that was made of it?`)) return;
    try {
      await api.deleteClip(clip.id);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const ready = clip.state === 'ready';
  const picture = ready ? (
    <img
      src={`/api/clips/${clip.id}/poster`}
      alt=""
      className="h-full w-full object-cover transition-transform duration-300 group-hover:scale-[1.03]"
    />
  ) : (
    <div className="flex h-full flex-col justify-center gap-2 px-5">
      {clip.state === 'failed' ? (
        <p className="text-error">{clip.error}</p>
      ) : (
        <>
          <p className="text-base-content/75" data-testid="reading">
            Reading frames{job ? `: ${job.done}${job.total ? ` of about ${job.total}` : ''}` : '…'}
          </p>
          <progress
            className="progress progress-primary"
            value={job?.total ? job.done : undefined}
            max={job?.total || 1}
            aria-label={`Reading ${clip.name}`}
          />
        </>
      )}
    </div>
  );
  return (
    <article
      className="group relative self-start overflow-hidden rounded-box border border-base-300 bg-base-200"
      data-testid="clip-card"
    >
      <div className="aspect-video overflow-hidden bg-base-300">
        {ready ? (
          <Link to={`/projects/${clip.projectId}/clips/${clip.id}`} aria-label={`Open ${clip.name}`}>
            {picture}
          </Link>
        ) : (
          picture
        )}
      </div>
      <div className="flex items-center gap-2 px-3.5 py-2.5">
        <div className="min-w-0 flex-1">
          <h2 className="truncate font-medium">
            {ready ? <Link to={`/projects/${clip.projectId}/clips/${clip.id}`}>{clip.name}</Link> : clip.name}
          </h2>
          <p className="mt-0.5 font-mono text-[11px] text-base-content/60">
            {clip.width}×{clip.height} · {spokenRate(clip.frameRate)}/s
            {clip.frames > 0 && ` · ${clock(secondsOf(clip.frames, clip.frameRate))}`} · {bytes(clip.bytes)}
          </p>
          {ready && clip.error && <p className="mt-1 text-xs text-warning">{clip.error}</p>}
        </div>
        <button
          className="btn btn-ghost btn-sm btn-square"
          aria-label={`Delete ${clip.name}`}
          onClick={() => void remove()}
        >
          <Trash2 size={15} />
        </button>
      </div>
    </article>
  );
}
