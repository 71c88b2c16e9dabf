import { useEffect } from 'react';
import { toast } from 'sonner';
import { createKeybindingsHandler } from 'tinykeys';
import { keyHere } from '../state/track-edits';
import { usePreferences } from '../state/preferences';
import { useView } from '../state/view';
import { nudgeBy } from '../stage/snap';
import { setInMiddle } from '../stage/tools/set-in-middle';
import { SplineTool } from '../stage/tools/spline-tool';
import { keysOf } from './keys';
import { actions } from './registry';

const isTyping = (target: HTMLElement): boolean =>
  target.matches(
    'input:not([type=range]):not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable=true]',
  ) || document.querySelector('dialog[open], [role=dialog], [role=menu]') !== null;

/** Whether a key means something to what has the focus. */
function isTaken(event: KeyboardEvent, target: HTMLElement): boolean {
  const pressing =
    (event.key === ' ' || event.key === 'Enter') && target.matches('button, a, [role=button], summary');
  const sliding =
    event.key.startsWith('Arrow') &&
    !event.altKey &&
    target.matches('input[type=range], [role=slider], [role=separator]');
  return pressing || sliding;
}

/** Gives a key to the tool in the hand; false where it means nothing to it. */
function heldTool({ key }: KeyboardEvent): boolean {
  const { draft } = useView.getState();
  if (draft && key === 'Backspace') return SplineTool.takeBack();
  if (key !== 'Enter') return false;
  return draft ? SplineTool.finish() : setInMiddle();
}

/** Listens for keys, except while someone types or a dialogue is open. */
export function useKeys(): void {
  const changed = usePreferences((s) => s.keys);
  useEffect(() => {
    const bindings: Record<string, (event: KeyboardEvent) => void> = {};
    for (const action of actions)
      for (const keys of keysOf(action, changed))
        bindings[keys] = (event) => {
          event.preventDefault();
          const reason = action.unavailable?.() ?? null;
          if (reason) toast.info(reason);
          else action.run();
        };
    const handle = createKeybindingsHandler(bindings);
    const onKeyDown = (event: KeyboardEvent): void => {
      const target = event.target as HTMLElement;
      if (event.defaultPrevented || isTyping(target) || isTaken(event, target)) return;
      if (heldTool(event)) return event.preventDefault();
      const by =
        useView.getState().tool === 'hand' && !event.ctrlKey && !event.metaKey ? nudgeBy(event) : null;
      if (!by) return handle(event);
      event.preventDefault();
      keyHere(by.x, by.y);
    };
    // What the mouse has pressed gives the keys back, so that Space plays and arrows step again.
    const letGo = (event: MouseEvent): void => {
      const pressed = document.activeElement;
      if (
        event.detail > 0 &&
        pressed?.matches('button, input[type=range], input[type=checkbox]') &&
        !pressed.closest('dialog, [role=dialog], [role=menu]')
      )
        (pressed as HTMLElement).blur();
    };
    const onKeyUp = (): void => {
      if (useView.getState().flickers) useView.setState({ flickers: false });
    };
    document.addEventListener('click', letGo);
    window.addEventListener('keydown', onKeyDown);
    window.addEventListener('keyup', onKeyUp);
    window.addEventListener('blur', onKeyUp);
    return () => {
      document.removeEventListener('click', letGo);
      window.removeEventListener('keydown', onKeyDown);
      window.removeEventListener('keyup', onKeyUp);
      window.removeEventListener('blur', onKeyUp);
    };
  }, [changed]);
}
