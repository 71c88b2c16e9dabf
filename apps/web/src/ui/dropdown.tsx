import * as Menu from '@radix-ui/react-dropdown-menu';
import { Ellipsis } from 'lucide-react';
import { itemLook, menuLook } from './menu-look';

/** A button that opens a short list of things to do. */
export function Dropdown({
  label,
  items,
}: {
  label: string;
  items: { label: string; run: () => void; danger?: boolean }[];
}) {
  return (
    <Menu.Root modal={false}>
      <Menu.Trigger asChild>
        <button className="btn btn-ghost btn-sm btn-square" aria-label={label}>
          <Ellipsis size={16} />
        </button>
      </Menu.Trigger>
      <Menu.Portal>
        <Menu.Content className={menuLook} align="end" sideOffset={4}>
          {items.map(({ label: name, run, danger }) => (
            <Menu.Item key={name} className={`${itemLook} ${danger ? 'text-error' : ''}`} onSelect={run}>
              {name}
            </Menu.Item>
          ))}
        </Menu.Content>
      </Menu.Portal>
    </Menu.Root>
  );
}
