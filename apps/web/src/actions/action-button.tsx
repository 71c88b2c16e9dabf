import { useAction } from './use-action';

/**
 * A button for an action: its icon, or a text beside it, with its name, keys and, where it cannot be done, why not.
 */
export function ActionButton({
  id,
  className = 'btn-ghost btn-sm btn-square',
  on = 'btn-primary',
  label,
  text,
  bare = false,
}: {
  id: string;
  className?: string;
  /** Besides, while it is on. */
  on?: string;
  /** A name in place of the action's own. */
  label?: string;
  /** What the button says; without, it shows the icon alone. */
  text?: string;
  /** Without the icon. */
  bare?: boolean;
}) {
  const { action, reason, isOn, tip } = useAction(id);
  const { icon: Icon } = action;
  const said = label ? tip.replace(action.label, label) : tip;
  return (
    <button
      type="button"
      className={`btn ${className} ${isOn ? on : ''} ${reason ? 'opacity-50' : ''}`}
      aria-label={text ? undefined : (label ?? action.label)}
      aria-disabled={reason !== null}
      aria-pressed={action.isOn ? isOn : undefined}
      title={reason ? `${said}\n${reason}` : said}
      onClick={() => !reason && action.run()}
    >
      {Icon && !bare && <Icon size={text ? 13 : 16} aria-hidden />}
      {text}
    </button>
  );
}
