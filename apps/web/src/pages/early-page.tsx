import type { ClipView } from '@lurn/contract';
import { useEffect, useState } from 'react';
import { api } from '../api/client';

/** Milliseconds between looks at how far reading has come. */
const every = 500;

/** A clip that is still being read: what has been read of it can be looked at already. */
export function EarlyPage({ clip }: { clip: ClipView }) {
  const [frames, setFrames] = useState(0);
  const [wanted, setWanted] = useState(0);
  const [shown, setShown] = useState<Shown | null>(null);
  const [show] = useState(() => stillBringer(clip.id, setShown));
  const job = clip.jobs.find((j) => j.kind === 'import');

  useEffect(() => {
    const look = (): void =>
      void api.early(clip.id).then(
        (early) => setFrames((before) => Math.max(before, early.frames)),
        () => undefined,
      );
    look();
    const timer = setInterval(look, every);
    return () => clearInterval(timer);
  }, [clip.id]);
  const some = frames > 0;
  useEffect(() => {
    if (some) void show(wanted);
  }, [show, wanted, some]);
  useEffect(() => () => URL.revokeObjectURL(shown?.url ?? ''), [shown]);

  const total = job?.total ?? 0;
  return (
    <main
      className="flex min-h-0 flex-1 flex-col items-center gap-3 bg-base-300 p-4"
      data-testid="early-room"
    >
      <div className="flex min-h-0 w-full flex-1 items-center justify-center">
        {shown ? (
          <img
            src={shown.url}
            alt={`Frame ${shown.frame}`}
            className="max-h-full max-w-full object-contain"
            data-testid="early-picture"
            data-frame={shown.frame}
          />
        ) : (
          <span className="loading loading-spinner text-primary" aria-label="Waiting for the first frame" />
        )}
      </div>
      <div className="w-full max-w-3xl">
        <input
          type="range"
          className="range range-primary range-xs w-full"
          min={0}
          max={Math.max(0, frames - 1)}
          value={wanted}
          aria-label="Frame"
          onChange={(event) => setWanted(Number(event.target.value))}
        />
        <p className="mt-2 flex justify-between text-base-content/75">
          <span className="font-mono text-[12px]">Frame {wanted}</span>
          <span role="status" data-testid="early-progress">
            {frames} {total > frames ? `of about ${total} ` : ''}frames are read; look through them meanwhile.
            Work begins when all are there.
          </span>
        </p>
      </div>
    </main>
  );
}

interface Shown {
  frame: number;
  url: string;
}

/** Brings single frames, one request at a time; of wishes that pile up only the latest counts. */
function stillBringer(clipId: string, onShown: (shown: Shown) => void): (frame: number) => Promise<void> {
  let [busy, wanted, done] = [false, -1, -1];
  return async (frame) => {
    wanted = frame;
    if (busy) return;
    busy = true;
    while (wanted !== done) {
      const next = wanted;
      const response = await fetch(`/api/clips/${clipId}/early/${next}`).catch(() => null);
      done = next;
      if (response?.ok) onShown({ frame: next, url: URL.createObjectURL(await response.blob()) });
    }
    busy = false;
  };
}
