import { ChevronRight } from 'lucide-react';
import type { ReactNode } from 'react';
import { useWorkspace } from '../state/workspace';

/** Rarer things, folded away under a name; whether they are open is remembered. */
export function Fold({ name, aside, children }: { name: string; aside?: ReactNode; children: ReactNode }) {
  const open = useWorkspace((s) => s.unfolded[name] ?? false);
  return (
    <div className="mt-2">
      <div className="flex items-center justify-between">
        <button
          className="btn btn-ghost btn-xs -ml-2 gap-1 font-normal"
          aria-expanded={open}
          onClick={() =>
            useWorkspace.setState(({ unfolded }) => ({ unfolded: { ...unfolded, [name]: !open } }))
          }
        >
          <ChevronRight size={13} className={open ? 'rotate-90' : ''} aria-hidden /> {name}
        </button>
        {aside}
      </div>
      {open && children}
    </div>
  );
}
