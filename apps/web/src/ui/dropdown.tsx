import { Ellipsis } from 'lucide-react';

/** A button that opens a short list of things to do. */
export function Dropdown({
  label,
  items,
}: {
  label: string;
  items: { label: string; run: () => void; danger?: boolean }[];
}) {
  return (
    <div className="dropdown dropdown-end">
      <button
        tabIndex={0}
        className="btn btn-ghost btn-sm btn-square"
        aria-label={label}
        aria-haspopup="menu"
      >
        <Ellipsis size={16} />
      </button>
      <ul
        tabIndex={-1}
        role="menu"
        className="dropdown-content menu z-20 w-56 rounded-box border border-base-300 bg-base-100 p-1 text-[13px] shadow-lg"
      >
        {items.map(({ label: name, run, danger }) => (
          <li key={name} role="none">
            <button
              role="menuitem"
              className={danger ? 'text-error' : ''}
              onClick={() => {
                (document.activeElement as HTMLElement | null)?.blur();
                run();
              }}
            >
              {name}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
