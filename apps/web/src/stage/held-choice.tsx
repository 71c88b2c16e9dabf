import { heldPlacing, heldQuad, useHeld } from '../state/held';
import { PixelField } from '../ui/pixel-field';

/** How the held picture is shown: as on its frame, or, where a region holds it, square on and so many pixels wide. */
export function HeldChoice() {
  const { squared, width } = useHeld();
  const flat = heldQuad() !== null;
  return (
    <span className="pointer-events-auto ml-2 inline-flex items-center gap-2 border-l border-base-content/20 pl-2">
      <label
        className="flex items-center gap-1.5"
        title={
          flat
            ? 'The region square on, at its true proportion'
            : 'Only a region is known to be flat: choose one.'
        }
      >
        <input
          type="checkbox"
          className="checkbox checkbox-xs rounded-[3px]"
          checked={squared && flat}
          disabled={!flat}
          onChange={({ target }) => useHeld.setState({ squared: target.checked })}
        />
        Squared up
      </label>
      {squared && flat && (
        <PixelField
          label="Width of the region, pixels"
          value={width ?? Math.round((heldPlacing()?.size.width ?? 0) / 1.2)}
          least={32}
          most={4096}
          className="input-xs w-20"
          onChange={(value) => useHeld.setState({ width: value })}
        />
      )}
    </span>
  );
}
