import type { Tool } from '../../state/view';
import { GuideTool } from './guide-tool';
import { PanTool } from './pan-tool';
import { PlaceTool } from './place-tool';
import { PutTool } from './put-tool';
import { SlideTool } from './slide-tool';
import { SplineTool } from './spline-tool';
import { WanderTool } from './wander-tool';
import type { StageTool, ToolContext } from './stage-tool';

/** The state machine of a tool. */
export function makeTool(tool: Tool, context: ToolContext): StageTool {
  switch (tool) {
    case 'place':
    case 'aside':
      return new PlaceTool(context, tool);
    case 'within':
    case 'without':
      return new SplineTool(context);
    case 'line':
    case 'cross':
      return new GuideTool(tool);
    case 'put':
      return new PutTool();
    case 'slide':
      return new SlideTool();
    case 'wander':
      return new WanderTool();
    case 'move':
    case 'hand':
      return new PanTool(context);
  }
}
