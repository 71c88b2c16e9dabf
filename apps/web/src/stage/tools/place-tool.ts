import { startingBoxes } from '@lurn/core';
import { useDocument } from '../../state/document';
import { usePreferences } from '../../state/preferences';
import { followAside, placeTrack } from '../../state/track-edits';
import { trackColour } from '../../ui/track-colour';
import { toPicture } from '../panes';
import type { StagePointer, StageTool, ToolContext, ToolPhase } from './stage-tool';

/** Sets a new point, or the box of the selected track on another feature, where it is clicked on the source. */
export class PlaceTool implements StageTool {
  readonly cursor = 'cursor-crosshair';
  phase: ToolPhase = 'idle';

  constructor(
    private readonly context: ToolContext,
    private readonly what: 'place' | 'aside',
  ) {}

  down({ at, pane }: StagePointer): void {
    if (pane?.kind !== 'source') return;
    const { clip, aim, shown } = this.context;
    const { x, y } = toPicture(pane, at);
    aim(null);
    if (x < 0 || y < 0 || x > clip.width || y > clip.height) return;
    void (this.what === 'aside' ? followAside(x, y, shown()) : placeTrack(x, y, shown()));
  }

  move({ at, pane }: StagePointer): void {
    const { clip, aim } = this.context;
    if (pane?.kind !== 'source') return this.leave();
    this.phase = 'pointing';
    const { boxes } = usePreferences.getState();
    const box = boxes
      ? { width: boxes.template, height: boxes.template }
      : startingBoxes({ width: clip.width, height: clip.height }).template;
    const colour = trackColour(useDocument.getState().tracks.length);
    aim({ ...toPicture(pane, at), pointer: at, box, colour });
  }

  up(): void {
    this.phase = 'idle';
  }

  leave(): void {
    this.phase = 'idle';
    this.context.aim(null);
  }
}
