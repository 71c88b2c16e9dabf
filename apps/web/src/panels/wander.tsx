import { Trash2 } from 'lucide-react';
import { ActionButton } from '../actions/action-button';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { areaOnOutput, wanderAnywhere, wanderBetween, type WanderArea } from '../state/wander';
import { Fold } from '../ui/fold';
import { IconToggle } from '../ui/icon-toggle';

const sides = [
  ['left', 'Left'],
  ['right', 'Right'],
  ['top', 'Top'],
  ['bottom', 'Bottom'],
] as const;

/** Where on the output what is followed may wander, while its path is smoothed. */
export function Wander() {
  const within = useDocument((s) => s.steady?.within);
  // Shown as it lies on the output.
  useDocument((s) => s.steady?.framing);
  const area = within && areaOnOutput(within);
  return (
    <Fold
      name="Hold loosely"
      aside={
        area && (
          <IconToggle label="Let it wander anywhere" onClick={wanderAnywhere}>
            <Trash2 size={13} />
          </IconToggle>
        )
      }
    >
      <div className="space-y-2 pt-1" data-testid="wander">
        {area ? (
          <div className="grid grid-cols-2 gap-x-3 gap-y-1.5">
            {sides.map(([side, label]) => (
              <label key={side} className="flex items-center justify-between gap-2">
                <span>{label}</span>
                <input
                  type="number"
                  className="input input-xs w-18 text-right font-mono"
                  value={Math.round(area[side])}
                  aria-label={`${label} of the area, output pixels`}
                  onChange={(event) => {
                    const value = event.target.valueAsNumber;
                    if (Number.isFinite(value)) moveSide(area, { [side]: value });
                  }}
                />
              </label>
            ))}
          </div>
        ) : (
          <p className="text-[11px] leading-snug text-base-content/75">
            What is followed may wander inside an area of the output, and no farther.
          </p>
        )}
        <div className="flex flex-wrap gap-1.5">
          <ActionButton id="wander" className="btn-xs" on="btn-active" text="Draw the area" />
          {!area && <ActionButton id="wander-middle" className="btn-xs" text="Middle third" bare />}
        </div>
        <Strays />
      </div>
    </Fold>
  );
}

function moveSide(area: WanderArea, change: Partial<WanderArea>): void {
  const { left, top, right, bottom } = { ...area, ...change };
  if (left < right && top < bottom) wanderBetween({ x: left, y: top }, { x: right, y: bottom });
}

function Strays() {
  const strays = useDocument((s) => s.result?.strays);
  if (!strays?.length) return null;
  return (
    <p className="text-[11px] leading-snug text-warning" data-testid="strays">
      It leaves the area on {strays.length === 1 ? 'one frame' : `${strays.length} frames`}, first on{' '}
      <button className="link" onClick={() => go(strays[0])}>
        frame {strays[0]}
      </button>
      : take all of x and y out, give it more zoom, or a larger area.
    </p>
  );
}
