import { handHere, putByHand } from '../../state/by-hand';
import { outputScale, slideTo, slidBy } from '../../state/framing';
import type { Tool } from '../../state/view';
import { BrushTool } from './brush-tool';
import { GuideTool } from './guide-tool';
import { PanTool } from './pan-tool';
import { PipetteTool } from './pipette-tool';
import { PlaceTool } from './place-tool';
import { PictureDragTool, type PictureDrag } from './picture-drag-tool';
import { SplineTool } from './spline-tool';
import { WanderTool } from './wander-tool';
import type { StageTool, ToolContext } from './stage-tool';

/** To where it should be on the frame shown: a key keeps it. */
const put: PictureDrag = { from: handHere, scale: outputScale, to: putByHand };
/** Aside, on all frames alike: what is held stays held. */
const slide: PictureDrag = { from: slidBy, scale: () => ({ x: 1, y: 1 }), to: slideTo };

/** The state machine of a tool. */
export function makeTool(tool: Tool, context: ToolContext): StageTool {
  switch (tool) {
    case 'place':
    case 'aside':
      return new PlaceTool(context, tool);
    case 'within':
    case 'without':
    case 'outline':
    case 'cutout':
    case 'region':
    case 'hold-out':
      return new SplineTool(context);
    case 'line':
    case 'cross':
      return new GuideTool(tool);
    case 'put':
      return new PictureDragTool(put);
    case 'slide':
      return new PictureDragTool(slide);
    case 'pipette':
      return new PipetteTool();
    case 'brush':
      return new BrushTool(context);
    case 'wander':
      return new WanderTool();
    case 'move':
    case 'hand':
      return new PanTool(context);
  }
}
