import { modifier } from '../ui/modifier';
import { usePreferences } from '../state/preferences';
import type { Action } from './action';

/** The keys of an action, as it has them or as they were changed. */
export const keysOf = (action: Action, changed = usePreferences.getState().keys): readonly string[] =>
  changed[action.id] ?? action.keys ?? [];

const named: Record<string, string> = {
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
  BracketLeft: '[',
  BracketRight: ']',
  Period: '.',
  Comma: ',',
  PageUp: 'Page ↑',
  PageDown: 'Page ↓',
  Escape: 'Esc',
  Minus: '−',
  Equal: '=',
  $mod: modifier,
  '?': '?',
};

/** Keys as people read them: "Shift ←". */
export function shownKeys(keys: string): string {
  // The plus sign is a key, too.
  const parts = keys.split(/(?<=.)\+(?=.)/).filter((part) => !(part === 'Shift' && keys.endsWith('?')));
  return parts
    .map(
      (part) =>
        named[part] ??
        /^(?:Digit|Key)(.)$/.exec(part)?.[1] ??
        (part.length === 1 ? part.toUpperCase() : part),
    )
    .join(' ');
}

/** Keys that were just pressed, as tinykeys reads them; null while only modifiers are down. */
export function pressedKeys(event: KeyboardEvent): string | null {
  const { key, code } = event;
  if (['Shift', 'Control', 'Alt', 'Meta', 'AltGraph', 'Dead', 'CapsLock'].includes(key)) return null;
  const isMac = modifier === '⌘';
  const parts = [
    (isMac ? event.metaKey : event.ctrlKey) && '$mod',
    (isMac ? event.ctrlKey : event.metaKey) && (isMac ? 'Control' : 'Meta'),
    event.altKey && 'Alt',
    event.shiftKey && 'Shift',
  ].filter((part) => typeof part === 'string');
  const plain = key === ' ' ? 'Space' : key.length === 1 && /^[a-z]$/i.test(key) ? key.toLowerCase() : key;
  // With a modifier a sign is another on every keyboard: its place is what counts.
  const last = parts.length > 0 && key.length === 1 && !/^[a-z0-9]$/i.test(key) && code ? code : plain;
  return [...parts, parts.includes('Shift') && /^[a-z]$/.test(last) ? last.toUpperCase() : last].join('+');
}

/** Keys that mean the same, written alike. */
const plainKeys = (keys: string): string => {
  const parts = keys.split(/(?<=.)\+(?=.)/);
  return [...parts.slice(0, -1).sort(), parts[parts.length - 1].toLowerCase()].join('+');
};

/** The other actions that some keys stand for already. */
export const clashesOf = (all: readonly Action[], own: Action, keys: string): Action[] =>
  all.filter((other) => other.id !== own.id && keysOf(other).some((k) => plainKeys(k) === plainKeys(keys)));

/** Gives an action other keys; without any it has those again that it came with. */
export function changeKeys(action: Action, keys: string[] | null): void {
  usePreferences.setState(({ keys: changed }) => {
    const { [action.id]: _, ...others } = changed;
    return { keys: keys ? { ...others, [action.id]: keys } : others };
  });
}
