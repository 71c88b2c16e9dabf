import type { ClipView, ProjectEvent } from '@lurn/contract';
import { useEffect, useState } from 'react';
import { Link, useParams } from 'react-router';
import { api } from '../api/client';
import { listen } from '../api/events';
import { useDocument } from '../state/document';
import { closeClip, onEvent, reload, showClip } from '../state/editor';
import { flush } from '../state/drafts';
import { useSync } from '../state/sync';
import { ErrorNote } from '../ui/error-note';
import { spokenRate } from '../ui/format';
import { EditTools, Header } from './header';
import { ConflictDialog } from './conflict-dialog';
import { EarlyPage } from './early-page';
import { ImportDialog } from './import-dialog';
import { LostServer } from './lost-server';
import { Workspace } from './workspace';

/** Where one clip is worked on. */
export function EditorPage() {
  const { projectId = '', clipId = '' } = useParams();
  return <Editor key={clipId} projectId={projectId} clipId={clipId} />;
}

function Editor({ projectId, clipId }: { projectId: string; clipId: string }) {
  const clip = useDocument((s) => s.clip);
  const fault = useDocument((s) => s.fault);
  const [failure, setFailure] = useState<string | null>(null);
  const [early, setEarly] = useState<ClipView | null>(null);

  useEffect(() => {
    let current = true;
    closeClip();
    let asked = 0;
    const open = (): void => {
      const turn = ++asked;
      void api.clip(clipId).then(
        (view) => {
          if (!current || turn !== asked) return;
          setEarly(view.state === 'reading' ? view : null);
          if (view.state === 'ready') showClip(view);
          else if (view.state === 'failed') setFailure(view.error ?? `"${view.name}" could not be read.`);
        },
        (error: Error) => current && setFailure(error.message),
      );
    };
    open();
    let broken = false;
    const hear = (event: ProjectEvent): void => {
      // Once it has been read, the clip can be worked on.
      const { clip: shown } = useDocument.getState();
      const own = event.type === 'clip' && event.clip.id === clipId ? event.clip : null;
      if (own) setFailure(null);
      if (own && (!shown || own.frames !== shown.frames)) open();
      else if (event.type === 'clip-removed' && event.clipId === clipId)
        setFailure('This clip was deleted in another window; it can be brought back from there for a while.');
      else onEvent(event);
    };
    const stop = listen(projectId, hear, (connected) => {
      useSync.setState({ connected });
      if (connected && broken) void reload();
      // What came to be between the first look and the stream, nobody has told.
      else if (connected && !useDocument.getState().clip) open();
      broken = !connected;
    });
    const leave = (): void => void flush();
    window.addEventListener('pagehide', leave);
    return () => {
      current = false;
      stop();
      leave();
      window.removeEventListener('pagehide', leave);
    };
  }, [projectId, clipId]);

  useEffect(() => {
    document.title = clip ? `${clip.name} · Lurn` : 'Lurn';
  }, [clip]);

  if (failure) {
    return (
      <div className="flex h-full flex-col">
        <Header />
        <ErrorNote message={failure}>
          <Link className="btn btn-sm" to={`/projects/${projectId}`}>
            Back to the clips
          </Link>
        </ErrorNote>
      </div>
    );
  }
  return (
    <div className="flex h-full flex-col">
      <Header tools={<EditTools />}>
        <nav className="flex min-w-0 items-baseline gap-2 text-base-content/70" aria-label="Where you are">
          <Link className="link link-hover" to={`/projects/${projectId}`} data-clips-link>
            Clips
          </Link>
          <span aria-hidden>/</span>
          <h1 className="truncate font-medium text-base-content">{(clip ?? early)?.name ?? '…'}</h1>
          {clip && (
            <span className="font-mono text-[11px] whitespace-nowrap text-base-content/70">
              {clip.width}×{clip.height} · {spokenRate(clip)}
            </span>
          )}
        </nav>
      </Header>
      <LostServer />
      {clip?.trouble && !early && (
        <p role="alert" className="border-b border-base-300 bg-warning/10 px-4 py-1.5 text-warning">
          {clip.error}
        </p>
      )}
      {fault && !early && (
        <p role="alert" className="border-b border-base-300 bg-warning/10 px-4 py-1.5 text-warning">
          {fault}
        </p>
      )}
      {early ? (
        <EarlyPage clip={early} />
      ) : clip ? (
        <Workspace />
      ) : (
        <div className="flex flex-1 items-center justify-center">
          <span className="loading loading-spinner text-primary" aria-label="Loading the clip" />
        </div>
      )}
      <ImportDialog />
      <ConflictDialog />
    </div>
  );
}
