import { useState, type FormEvent } from 'react';
import { focusAtOnce } from './focus-at-once';

/** A name that is being changed: Enter or leaving keeps it, Escape does not. */
export function NameField({
  label,
  name,
  onKeep,
  onDone,
}: {
  label: string;
  name: string;
  onKeep: (name: string) => void;
  onDone: () => void;
}) {
  const [text, setText] = useState(name);
  const keep = (event?: FormEvent): void => {
    event?.preventDefault();
    const next = text.trim();
    if (next && next !== name) onKeep(next);
    onDone();
  };
  return (
    <form onSubmit={keep}>
      <input
        className="input input-sm w-full"
        aria-label={label}
        maxLength={120}
        value={text}
        ref={focusAtOnce}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => keep()}
        onKeyDown={(event) => event.key === 'Escape' && onDone()}
      />
    </form>
  );
}
