import { Keyboard, Moon, Redo2, Sun, Undo2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { useDocument } from '../state/document';
import { redo, undo } from '../state/steadying';
import { useSync } from '../state/sync';
import { modifier } from '../ui/modifier';

export function Header({ children, tools }: { children?: ReactNode; tools?: ReactNode }) {
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
        <ThemeButton />
      </div>
    </header>
  );
}

function ThemeButton() {
  const [theme, setTheme] = useState(() => document.documentElement.dataset.theme ?? 'dusk');
  const toggle = (): void => {
    const next = theme === 'dusk' ? 'noon' : 'dusk';
    document.documentElement.dataset.theme = next;
    localStorage.setItem('theme', next);
    setTheme(next);
  };
  return (
    <button
      className="btn btn-ghost btn-sm btn-square"
      aria-label={theme === 'dusk' ? 'Light theme' : 'Dark theme'}
      onClick={toggle}
    >
      {theme === 'dusk' ? <Sun size={16} /> : <Moon size={16} />}
    </button>
  );
}

/** Undo, redo, the state of saving, and the way to the list of keys. */
export function EditTools() {
  const { undo: undone, redo: redone } = useDocument((s) => s.history);
  const connected = useSync((s) => s.connected);
  const saveError = useSync((s) => s.saveError);
  const saving = useSync((s) => s.saving > 0 || s.unsaved);
  return (
    <>
      <span className="mr-1 text-[11.5px] text-base-content/60" role="status" data-testid="save-state">
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
      <button
        className="btn btn-ghost btn-sm btn-square"
        disabled={!undone}
        aria-label="Undo"
        title={undone ? `Undo: ${undone} (${modifier} Z)` : 'Nothing to undo'}
        onClick={() => void undo()}
      >
        <Undo2 size={16} />
      </button>
      <button
        className="btn btn-ghost btn-sm btn-square"
        disabled={!redone}
        aria-label="Redo"
        title={redone ? `Redo: ${redone} (${modifier} Shift Z)` : 'Nothing to redo'}
        onClick={() => void redo()}
      >
        <Redo2 size={16} />
      </button>
      <button
        className="btn btn-ghost btn-sm btn-square"
        aria-label="Keys"
        title="Keys (?)"
        onClick={() => window.dispatchEvent(new Event('show-shortcuts'))}
      >
        <Keyboard size={16} />
      </button>
    </>
  );
}
