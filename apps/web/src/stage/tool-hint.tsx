import { useView, type Tool } from '../state/view';

const hints: Record<Exclude<Tool, 'move'>, string> = {
  place:
    'Click on something fixed, of high contrast, at the depth that matters. Scroll to zoom. Enter sets it in the middle.',
  aside: 'Click on something that moves with the point; the path stays where it is.',
  within: 'Click for corners, drag for curves; close on the first, or with Enter. Backspace takes one back.',
  without: 'Click for corners, drag for curves; close on the first, or with Enter. Backspace takes one back.',
  line: 'Drag a line over either picture. Shift leaves it slanting.',
  cross: 'Click on either picture.',
  put: 'Drag the steadied picture to where it should be on this frame; a key keeps it. Shift makes the hand finer.',
  slide:
    'Drag the steadied picture aside, on all frames alike; what is held stays held. Shift makes the hand finer.',
  wander: 'Drag a rectangle over the steadied picture: what is followed stays inside.',
  outline:
    'Click for corners, drag for curves, on the source or the held picture; close on the first, or with Enter.',
  cutout:
    'Click for corners, drag for curves, on the source or the held picture; close on the first, or with Enter.',
  pipette: 'Click on the colour, on the source. Enter takes that in the middle.',
  brush: 'Paint on either picture. Shift and a click say where copies come from; on another frame, too.',
  region:
    'Draw loosely about a flat thing, on the source: click for corners, drag for curves; close on the first, or with Enter.',
  'hold-out':
    'Draw about what passes in front, on the source: click for corners, drag for curves; close on the first, or with Enter.',
  hand: 'Arrows move the box a pixel, with Shift ten, with Alt a tenth. Enter places it and goes on a frame.',
};

/** What the tool in the hand wants, in a line over the stage. */
export function ToolHint() {
  const tool = useView((s) => s.tool);
  if (tool === 'move') return null;
  return (
    <p
      className="pointer-events-none absolute bottom-2 left-1/2 max-w-[94%] -translate-x-1/2 rounded-md bg-base-300/90 px-3 py-1 text-center text-[12px] shadow"
      role="status"
      data-testid="tool-hint"
    >
      {hints[tool]} <span className="text-base-content/75">Esc puts it down.</span>
    </p>
  );
}
