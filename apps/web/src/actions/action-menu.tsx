import * as ContextMenu from '@radix-ui/react-context-menu';
import * as DropdownMenu from '@radix-ui/react-dropdown-menu';
import { Check } from 'lucide-react';
import type { ReactNode } from 'react';
import { itemLook, lineLook, menuLook } from '../ui/menu-look';
import { useAction } from './use-action';

/** Ids of actions; null for a line between them. */
export type MenuItems = readonly (string | null)[];

/** Opens a menu of actions where it is clicked with the other button, or by the menu key. */
export function ActionContextMenu({ items, children }: { items: MenuItems; children: ReactNode }) {
  return (
    <ContextMenu.Root modal={false}>
      <ContextMenu.Trigger asChild>{children}</ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className={menuLook}>
          {items.map((id, i) =>
            id === null ? (
              <ContextMenu.Separator key={i} className={lineLook} />
            ) : (
              <Entry key={id} id={id} as={ContextMenu.Item} />
            ),
          )}
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}

/** A button that opens a menu of actions. */
export function ActionDropdown({ items, trigger }: { items: MenuItems; trigger: ReactNode }) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={menuLook} align="end" sideOffset={4}>
          {items.map((id, i) =>
            id === null ? (
              <DropdownMenu.Separator key={i} className={lineLook} />
            ) : (
              <Entry key={id} id={id} as={DropdownMenu.Item} />
            ),
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Entry({ id, as: Item }: { id: string; as: typeof ContextMenu.Item | typeof DropdownMenu.Item }) {
  const { action, reason, isOn, keys } = useAction(id);
  const { icon: Icon } = action;
  return (
    <Item
      className={itemLook}
      disabled={reason !== null}
      title={reason ?? undefined}
      onSelect={() => action.run()}
    >
      <span className="w-4">
        {isOn ? <Check size={14} aria-label="on" /> : Icon && <Icon size={14} aria-hidden />}
      </span>
      <span className="flex-1">{action.label}</span>
      {keys && <kbd className="kbd kbd-xs font-sans">{keys}</kbd>}
    </Item>
  );
}
