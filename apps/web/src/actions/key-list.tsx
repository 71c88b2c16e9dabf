import { openDialog, useDialogs } from '../state/workspace';
import { usePreferences } from '../state/preferences';
import { Dialog } from '../ui/dialog';
import { groups } from './action';
import { keysOf, shownKeys } from './keys';
import { actions } from './registry';

const row = 'flex min-h-6 break-inside-avoid items-center justify-between gap-4';

/** Keys that belong to the pointer and to handles, not to an action. */
const besides: [string, string][] = [
  ['Finer, while dragging', 'Shift'],
  ['One picture by itself, while zooming or panning', 'Alt'],
  ['Move a handle that has the focus, or the box while mending by hand', '←↑↓→'],
  ['… by ten pixels, by a tenth', 'Shift, Alt'],
];

/** All keys on one page. */
export function KeyList() {
  const open = useDialogs((s) => s.open === 'keys');
  const changed = usePreferences((s) => s.keys);
  return (
    <Dialog open={open} label="Keys" onClose={() => openDialog(null)}>
      <div className="modal-box max-h-[94vh] max-w-6xl outline-none">
        <h2 className="mb-3 text-lg font-semibold">Keys</h2>
        <div className="columns-4 gap-x-7 text-[12px]">
          {groups.map((group) => {
            const own = actions.filter(
              (action) => action.group === group && !action.quiet && keysOf(action, changed).length > 0,
            );
            return (
              <section key={group} className="mb-3 break-inside-avoid-column">
                <h3 className="mb-0.5 text-[11px] font-semibold text-base-content/70">{group}</h3>
                <dl>
                  {own.map((action) => (
                    <div key={action.id} className={row}>
                      <dt>{action.label}</dt>
                      <dd>
                        <kbd className="kbd kbd-sm font-sans whitespace-nowrap">
                          {shownKeys(keysOf(action, changed)[0])}
                        </kbd>
                      </dd>
                    </div>
                  ))}
                </dl>
              </section>
            );
          })}
          <section className="break-inside-avoid-column">
            <h3 className="mb-0.5 text-[11px] font-semibold text-base-content/70">Pointer and handles</h3>
            <dl>
              {besides.map(([what, keys]) => (
                <div key={what} className={row}>
                  <dt>{what}</dt>
                  <dd>
                    <kbd className="kbd kbd-sm font-sans whitespace-nowrap">{keys}</kbd>
                  </dd>
                </div>
              ))}
            </dl>
          </section>
        </div>
        <div className="modal-action">
          <button className="btn btn-sm btn-ghost" onClick={() => openDialog('preferences')}>
            Change keys…
          </button>
          <button className="btn btn-sm" onClick={() => openDialog(null)}>
            Close
          </button>
        </div>
      </div>
    </Dialog>
  );
}
