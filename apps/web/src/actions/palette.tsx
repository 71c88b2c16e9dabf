import { Command } from 'cmdk';
import { useMemo, useState } from 'react';
import { openDialog, useDialogs } from '../state/workspace';
import { groups, type Action } from './action';
import { keysOf, shownKeys } from './keys';
import { actions } from './registry';
import { searchActions } from './search-actions';

/** Finds an action by its name, or by what one wants of it. What cannot be done now is grey, and says why. */
export function Palette() {
  const open = useDialogs((s) => s.open === 'palette');
  return (
    <Command.Dialog
      open={open}
      onOpenChange={(wanted) => openDialog(wanted ? 'palette' : null)}
      label="Find an action"
      overlayClassName="fixed inset-0 z-40 bg-black/40"
      contentClassName="fixed top-[12vh] left-1/2 z-50 w-[560px] max-w-[92vw] -translate-x-1/2 overflow-hidden rounded-box border border-base-300 bg-base-100 shadow-2xl"
      shouldFilter={false}
    >
      {open && <Entries />}
    </Command.Dialog>
  );
}

function Entries() {
  const [search, setSearch] = useState('');
  // As things stood when it was opened.
  const reasons = useMemo(() => new Map(actions.map((a) => [a.id, a.unavailable?.() ?? null])), []);
  return (
    <>
      <Command.Input
        className="w-full border-b border-base-300 bg-transparent px-4 py-3 text-[15px] outline-none"
        placeholder="What do you want? Say “black edges”, “mend”, “slow”…"
        value={search}
        onValueChange={setSearch}
      />
      <Command.List className="max-h-[52vh] overflow-y-auto p-1.5">
        <Command.Empty className="p-4 text-base-content/70">Nothing is called so.</Command.Empty>
        {search.trim() !== '' &&
          searchActions(actions, search).map((action) => (
            <Entry key={action.id} action={action} reason={reasons.get(action.id) ?? null} />
          ))}
        {search.trim() === '' &&
          groups.map((group) => (
            <Command.Group
              key={group}
              heading={group}
              className="[&_[cmdk-group-heading]]:px-2.5 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-[11px] [&_[cmdk-group-heading]]:font-semibold [&_[cmdk-group-heading]]:text-base-content/70"
            >
              {actions
                .filter((action) => action.group === group && action.id !== 'palette')
                .map((action) => (
                  <Entry key={action.id} action={action} reason={reasons.get(action.id) ?? null} />
                ))}
            </Command.Group>
          ))}
      </Command.List>
    </>
  );
}

function Entry({ action, reason }: { action: Action; reason: string | null }) {
  const { id, label, icon: Icon } = action;
  const [keys] = keysOf(action);
  const run = (): void => {
    openDialog(null);
    // The dialogue gives the focus back first.
    setTimeout(() => action.run());
  };
  return (
    <Command.Item
      value={label}
      disabled={reason !== null}
      onSelect={run}
      data-action={id}
      className="flex items-center gap-3 rounded-md px-2.5 py-1.5 text-[13px] data-[disabled=true]:text-base-content/75 data-[selected=true]:bg-base-300"
    >
      <span className="w-4">{Icon && <Icon size={15} aria-hidden />}</span>
      <span className="flex-1">
        {label}
        {reason && <span className="ml-2 text-[11.5px] text-base-content/75">{reason}</span>}
      </span>
      {keys && <kbd className="kbd kbd-sm font-sans">{shownKeys(keys)}</kbd>}
    </Command.Item>
  );
}
