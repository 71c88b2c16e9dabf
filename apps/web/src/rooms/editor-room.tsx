import { useEffect, useState } from 'react';
import { Link, useParams } from 'react-router';
import { api } from '../api/client';
import { listen } from '../api/events';
import { Lanes } from '../lanes/lanes';
import { ExportPanel } from '../panels/export-panel';
import { FramingPanel } from '../panels/framing-panel';
import { SteadyPanel } from '../panels/steady-panel';
import { TracksPanel } from '../panels/tracks-panel';
import { Stage } from '../stage/stage';
import { hear, reload, saveSteady, showClip, useEditor } from '../state/editor';
import { ErrorNote } from '../ui/error-note';
import { spokenRate } from '../ui/format';
import { EditTools, Header } from './header';
import { ShortcutList } from './shortcut-list';
import { useShortcuts } from './shortcuts';
import { Transport } from './transport';

/** Where one clip is worked on. */
export function EditorRoom() {
  const { projectId = '', clipId = '' } = useParams();
  return <Editor key={clipId} projectId={projectId} clipId={clipId} />;
}

function Editor({ projectId, clipId }: { projectId: string; clipId: string }) {
  const clip = useEditor((s) => s.clip);
  const [failure, setFailure] = useState<string | null>(null);
  useShortcuts();

  useEffect(() => {
    let current = true;
    useEditor.setState({ clip: null, result: null });
    api.clip(clipId).then(
      (view) => {
        if (!current) return;
        if (view.state === 'ready') showClip(view);
        else setFailure(view.error ?? `"${view.name}" is still being read; open it again in a moment.`);
      },
      (error: Error) => current && setFailure(error.message),
    );
    let broken = false;
    const stop = listen(projectId, hear, (connected) => {
      useEditor.setState({ connected });
      if (connected && broken) void reload();
      broken = !connected;
    });
    const leave = (): void => void saveSteady();
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
          <Link className="link link-hover" to={`/projects/${projectId}`}>
            Clips
          </Link>
          <span aria-hidden>/</span>
          <h1 className="truncate font-medium text-base-content">{clip?.name ?? '…'}</h1>
          {clip && (
            <span className="font-mono text-[11px] whitespace-nowrap text-base-content/55">
              {clip.width}×{clip.height} · {spokenRate(clip.frameRate)}/s
            </span>
          )}
        </nav>
      </Header>
      {clip ? (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_288px]">
          <main className="grid min-h-0 grid-rows-[minmax(0,1fr)_auto_270px]">
            <Stage />
            <Transport />
            <Lanes />
          </main>
          <aside
            className="min-h-0 overflow-y-auto border-l border-base-300 bg-base-200"
            aria-label="Tracks, steadying, framing, export"
          >
            <TracksPanel />
            <SteadyPanel />
            <FramingPanel />
            <ExportPanel />
          </aside>
        </div>
      ) : (
        <div className="flex flex-1 items-center justify-center">
          <span className="loading loading-spinner text-primary" aria-label="Loading the clip" />
        </div>
      )}
      <ShortcutList />
    </div>
  );
}
