import type { ClipChange } from '@lurn/contract';
import { toast } from 'sonner';
import { create } from 'zustand';
import { ApiError, edits, type Edits } from '../api/client';

export interface Conflict {
  message: string;
  /** True to have one's own edit done all the same. */
  choose: (own: boolean) => void;
}

/** How edits get to the server. */
export interface Sync {
  connected: boolean;
  /** Edits on their way to the server. */
  saving: number;
  /** Why an edit waits, other than for the connection. */
  saveError: string | null;
  /** A slider was moved and its place is not sent yet. */
  unsaved: boolean;
  /** An edit that would write over another window's; it waits for a choice. */
  conflict: Conflict | null;
}

export const useSync = create<Sync>(() => ({
  connected: true,
  saving: 0,
  saveError: null,
  unsaved: false,
  conflict: null,
}));

const { getState: get, setState: set } = useSync;

/** Something that is sent: an edit, or what asks for work on the server and changes nothing by itself. */
export type Send = (edits: Edits) => Promise<ClipChange | undefined>;

// Edits go to the server one after another, in the order they were made.
let line: Promise<unknown> = Promise.resolve();

/**
 * Sends an edit in its turn, until it has arrived; without a connection it waits for one. `base` is the revision that it
 * was made on; `giveUp` is called where another window's edit is kept in its place. Throws what the server refuses.
 */
export async function inLine(
  send: Send,
  base: number,
  giveUp: () => Promise<void>,
): Promise<ClipChange | undefined> {
  set({ saving: get().saving + 1 });
  const turn = line.then(() => deliver(send, base, giveUp));
  line = turn.catch(() => undefined);
  try {
    return await turn;
  } finally {
    set({ saving: get().saving - 1 });
  }
}

/** Its key lets the server know an edit again that is sent twice, its base what it was made on. */
async function deliver(
  send: Send,
  seen: number,
  giveUp: () => Promise<void>,
): Promise<ClipChange | undefined> {
  const key = crypto.randomUUID();
  let base: number | null = seen;
  for (;;) {
    try {
      return await send(edits({ key, base }));
    } catch (error) {
      if (!(error instanceof ApiError)) throw error;
      if (error.status === 0) await connection();
      else if (error.status === insufficientStorage) await room(error.message);
      else if (error.conflict === undefined) throw error;
      else if (await ownInstead(error.message)) base = null;
      else {
        await giveUp();
        return undefined;
      }
    }
  }
}

const insufficientStorage = 507;
/** Milliseconds until what found no room on the disk is tried again, and until it is seen whether the server answers. */
const untilRoom = 3000;
const untilAsked = 1000;

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

/** Says what is in the way, and resolves when it is worth trying again. */
async function room(message: string): Promise<void> {
  set({ saveError: message });
  await pause(untilRoom);
  set({ saveError: null });
}

/** Resolves when the server may answer again. */
async function connection(): Promise<void> {
  set({ connected: false });
  do await pause(untilAsked);
  while (
    !(await fetch('/api/health').then(
      (response) => response.ok,
      () => false,
    ))
  );
  set({ connected: true });
}

/** Asks whether one's own edit is to be done although another window has changed the same. */
function ownInstead(message: string): Promise<boolean> {
  return new Promise((resolve) => {
    const choose = (own: boolean): void => {
      set({ conflict: null });
      resolve(own);
    };
    set({ conflict: { message, choose } });
  });
}

export function complain(error: unknown): void {
  toast.error(error instanceof ApiError ? error.message : String(error));
}
