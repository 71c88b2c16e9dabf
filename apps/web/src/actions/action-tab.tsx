import type { ReactNode } from 'react';
import { useAction } from './use-action';

/** A tab for an action that shows one of several panels; its id names the tab, `panel` what it shows. */
export function ActionTab({
  id,
  panel,
  className,
  children,
}: {
  id: string;
  panel: string;
  className: string;
  children: (isOn: boolean) => ReactNode;
}) {
  const { action, isOn = false, tip } = useAction(id);
  return (
    <button
      role="tab"
      id={id}
      aria-selected={isOn}
      aria-controls={panel}
      title={tip}
      className={`flex items-center border-b-2 outline-none focus-visible:bg-base-300 ${isOn ? 'border-primary' : 'border-transparent text-base-content/75 hover:text-base-content'} ${className}`}
      onClick={action.run}
    >
      {children(isOn)}
    </button>
  );
}
