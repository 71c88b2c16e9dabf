import { useLayers } from '../../state/layers';
import { useView } from '../../state/view';
import { toPicture } from '../panes';
import type { StagePointer, StageTool, ToolPhase } from './stage-tool';

/** Takes a colour of the source for the selected layer's key. */
export class PipetteTool implements StageTool {
  readonly cursor = 'cursor-crosshair';
  readonly phase: ToolPhase = 'idle';

  down({ at, pane }: StagePointer): void {
    if (pane?.kind !== 'source') return;
    useLayers.setState({ picking: toPicture(pane, at) });
    useView.setState({ tool: 'move' });
  }

  move(): void {
    // The pointer is all there is to see.
  }

  up(): void {
    // Taken when the button went down.
  }

  leave(): void {
    // Nothing is shown that would have to go.
  }
}
