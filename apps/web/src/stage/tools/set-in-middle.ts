import { rectangleSpline } from '@lurn/core';
import { mayPaint, paint } from '../../state/brush';
import { useDocument } from '../../state/document';
import { addOutline, useLayers } from '../../state/layers';
import { usePlayhead } from '../../state/playhead';
import { addHoldOut, drawRegion } from '../../state/regions';
import { followAside, placeTrack } from '../../state/track-edits';
import { addGuide, useView } from '../../state/view';
import { wanderInMiddle } from '../../state/wander';

/**
 * Does what the tool in the hand does, in the middle of what is seen, for those who use no pointer: what is set there is
 * moved on by the arrow keys. False where the tool sets nothing.
 */
export function setInMiddle(): boolean {
  const { tool, viewports } = useView.getState();
  const { clip } = useDocument.getState();
  if (!clip) return false;
  const { zoom, centreX, centreY } = viewports.source;
  const [x, y] = [centreX * clip.width, centreY * clip.height];
  const [dx, dy] = [clip.width / zoom / 4, clip.height / zoom / 4];
  const frame = Math.max(0, usePlayhead.getState().shown);
  switch (tool) {
    case 'place':
      void placeTrack(x, y, frame);
      return true;
    case 'aside':
      void followAside(x, y, frame);
      return true;
    case 'within':
    case 'without':
      useView.setState(({ areas }) => ({
        areas: [...areas, { kind: tool, spline: rectangleSpline(x - dx, y - dy, x + dx, y + dy) }],
        editedArea: areas.length,
        tool: 'move',
      }));
      return true;
    case 'outline':
    case 'cutout':
      addOutline(rectangleSpline(x - dx, y - dy, x + dx, y + dy), tool === 'cutout');
      useView.setState({ tool: 'move' });
      return true;
    case 'region':
      void drawRegion(rectangleSpline(x - dx, y - dy, x + dx, y + dy));
      useView.setState({ tool: 'move' });
      return true;
    case 'hold-out':
      addHoldOut(rectangleSpline(x - dx / 2, y - dy / 2, x + dx / 2, y + dy / 2));
      useView.setState({ tool: 'move' });
      return true;
    case 'pipette':
      useLayers.setState({ picking: { x, y } });
      useView.setState({ tool: 'move' });
      return true;
    case 'line':
      addGuide({ pane: 'source', from: { x: x - dx, y }, to: { x: x + dx, y } });
      useView.setState({ tool: 'move' });
      return true;
    case 'cross':
      addGuide({ pane: 'source', from: { x, y }, to: null });
      useView.setState({ tool: 'move' });
      return true;
    case 'wander':
      wanderInMiddle();
      useView.setState({ tool: 'move' });
      return true;
    case 'brush':
      if (mayPaint()) void paint([{ x, y, pressure: 1 }]);
      return true;
    case 'move':
    case 'hand':
    case 'put':
    case 'slide':
      return false;
  }
}
