import type { ClipChange, ClipView } from '@lurn/contract';
import type { Edits } from '../api/client';
import { useDocument } from './document';
import { useSync } from './sync';

// What a person has changed and the server does not know yet: seen at once, stored when the hand rests.

/** Milliseconds that a hand rests before what it has changed is stored. */
const restBeforeSaving = 350;

interface Draft {
  kind: string;
  id: string;
  /** What of the record is another, by its fields; of samples by their frames. */
  part: Record<string, unknown>;
  label: string;
  /** The revision that it was begun on: what another window has done since may be in its way. */
  base: number;
  send: Send;
  timer: ReturnType<typeof setTimeout> | undefined;
  /** Set once it is on its way; it is shown until the answer is there. */
  sent: Promise<unknown> | null;
}

type Send = (clip: ClipView, edits: Edits) => Promise<ClipChange | undefined>;

/** Sends an edit that was begun on a revision, in its turn; says when it will not be made, before anything is shown anew. */
export type Deliver = (send: Send, base: number, givenUp: () => void) => Promise<ClipChange | undefined>;

let drafts: Draft[] = [];
let deliver: Deliver = () => Promise.resolve(undefined);

/** How edits are sent: said once, by what takes their answers over. */
export const deliverBy = (way: Deliver): void => void (deliver = way);

const tell = (): void => useSync.setState({ unsaved: drafts.length > 0 });

/** What changes a record: how, and how it is stored. */
export interface Touch {
  kind: string;
  id: string;
  part: Record<string, unknown>;
  /** Changes of one label become one edit, as long as the hand does not rest. */
  label?: string;
  /** Milliseconds until it is stored; at once where 0. */
  rest?: number;
  /** Stores it; asked when its time has come. */
  send: Send;
}

/** Changes a record ahead of the server. What is shown is for whoever calls; it is kept shown by `overlaid`. */
export function touch({
  kind,
  id,
  part,
  label = '',
  rest = restBeforeSaving,
  send,
}: Touch): Promise<unknown> {
  const open = drafts.find((one) => one.kind === kind && one.id === id && !one.sent);
  if (open && open.label !== label) void save(open);
  let draft = open && !open.sent ? open : undefined;
  if (draft) Object.assign(draft, { part: { ...draft.part, ...part }, send });
  else {
    const base = useDocument.getState().revision;
    draft = { ...{ kind, id, part, label, base, send }, timer: undefined, sent: null };
    drafts = [...drafts, draft];
  }
  const mine = draft;
  clearTimeout(mine.timer);
  tell();
  if (rest === 0) return save(mine);
  mine.timer = setTimeout(() => void save(mine), rest);
  return Promise.resolve();
}

function save(draft: Draft): Promise<unknown> {
  clearTimeout(draft.timer);
  const done = (): void => forget(draft);
  draft.sent ??= deliver(draft.send, draft.base, done).finally(done);
  return draft.sent;
}

function forget(draft: Draft): void {
  drafts = drafts.filter((one) => one !== draft);
  tell();
}

/** Sends all that waits for the hand to rest; resolves when the server has answered all. */
export async function flush(): Promise<void> {
  await Promise.all(drafts.map(save));
}

/** A record as the server has it, with what is ahead of it. */
export function overlaid<V extends object>(kind: string, id: string, view: V): V {
  const own = drafts.filter((one) => one.kind === kind && one.id === id);
  return own.reduce((shown, { part }) => ({ ...shown, ...part }), view);
}

/** What is ahead of the server of a record that is shown otherwise than by its fields, oldest first. */
export const ahead = (kind: string, id: string): readonly Record<string, unknown>[] =>
  drafts.filter((one) => one.kind === kind && one.id === id).map(({ part }) => part);
