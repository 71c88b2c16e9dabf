import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { ActionButton } from '../actions/action-button';
import { KeyList } from '../actions/key-list';
import { Palette } from '../actions/palette';
import { useKeys } from '../actions/use-keys';
import { useDocument } from '../state/document';
import { useSync } from '../state/sync';
import { PreferencesDialog } from './preferences-dialog';

/** The bar over every page, and what any page can open: palette, keys, preferences. */
export function Header({ children, tools }: { children?: ReactNode; tools?: ReactNode }) {
  useKeys();
  return (
    <header className="flex h-11 shrink-0 items-center gap-3 border-b border-base-300 bg-base-100 px-3">
      <Link
        to="/"
        className="flex items-center gap-2 font-semibold tracking-tight"
        aria-label="Lurn: all projects"
      >
        <img src="/icon.svg" alt="" className="size-6" /> Lurn
      </Link>
      {children}
      <div className="ml-auto flex items-center gap-1">
        {tools}
        <ActionButton id="palette" className="btn-ghost btn-sm gap-1.5 font-normal" text="Find an action" />
        <ActionButton id="keys" />
        <ActionButton id="preferences" />
        <ActionButton id="theme" />
      </div>
      <Palette />
      <KeyList />
      <PreferencesDialog />
    </header>
  );
}

/** Undo, redo, and the state of saving. */
export function EditTools() {
  const { undo, redo } = useDocument((s) => s.history);
  const connected = useSync((s) => s.connected);
  const saveError = useSync((s) => s.saveError);
  const saving = useSync((s) => s.saving > 0 || s.unsaved);
  return (
    <>
      <span className="mr-1 text-[11.5px] text-base-content/70" role="status" data-testid="save-state">
        {saveError ? (
          <span className="text-warning">{saveError}</span>
        ) : !connected ? (
          <span className="text-warning">No connection; trying again</span>
        ) : saving ? (
          'Saving…'
        ) : (
          'Saved'
        )}
      </span>
      <ActionButton id="undo" label={undo ? `Undo: ${undo}` : 'Undo'} />
      <ActionButton id="redo" label={redo ? `Redo: ${redo}` : 'Redo'} />
    </>
  );
}
