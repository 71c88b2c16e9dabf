import type { ReactNode } from 'react';
import { useAction } from './use-action';

/** A button for an action: its icon or what is given, with its name, keys and, where it cannot be done, why not. */
export function ActionButton({
  id,
  className = 'btn-ghost btn-sm btn-square',
  on = 'btn-primary',
  label,
  children,
}: {
  id: string;
  className?: string;
  /** Besides, while it is on. */
  on?: string;
  /** In place of the action's own. */
  label?: string;
  children?: ReactNode;
}) {
  const { action, reason, isOn, tip } = useAction(id);
  const { icon: Icon } = action;
  const said = label ? tip.replace(action.label, label) : tip;
  return (
    <button
      type="button"
      className={`btn ${className} ${isOn ? on : ''} ${reason ? 'opacity-50' : ''}`}
      aria-label={label ?? action.label}
      aria-disabled={reason !== null}
      aria-pressed={action.isOn ? isOn : undefined}
      title={reason ? `${said}\n${reason}` : said}
      onClick={() => !reason && action.run()}
    >
      {children ?? (Icon && <Icon size={16} aria-hidden />)}
    </button>
  );
}
