import {
  ArrowDown,
  ArrowUp,
  BrushCleaning,
  Camera,
  Copy,
  Eye,
  EyeOff,
  KeyRound,
  Lock,
  Paintbrush,
  Palette,
  Pipette,
  Shapes,
  Spline,
  SquareDashed,
  Trash2,
  Type,
} from 'lucide-react';
import { useDocument, type LayerOfClip } from '../state/document';
import {
  addClip,
  addLayer,
  addText,
  changeLayer,
  copyLayer,
  keyLayer,
  keyOutlines,
  moveLayer,
  removeLayer,
  useLayers,
} from '../state/layers';
import { takeTool, useView } from '../state/view';
import { useWorkspace } from '../state/workspace';
import type { Action } from './action';
import * as reasons from './reasons';

const selected = (): LayerOfClip | undefined =>
  useDocument.getState().layers.find(({ id }) => id === useLayers.getState().selected);
const someLayer = (): string | null => (selected() ? null : 'Choose a layer first.');
const open = reasons.all(someLayer, () =>
  selected()?.locked ? 'The layer is locked: unlock it first.' : null,
);
/** Does something to the selected layer. */
const withLayer = (run: (layer: LayerOfClip) => void) => (): void => {
  const layer = selected();
  if (layer) run(layer);
};
const dressing = (run: () => void) => (): void => {
  useWorkspace.setState({ step: 'dress' });
  run();
};
const move = (by: number) =>
  withLayer(({ id }) => {
    const { layers } = useDocument.getState();
    const to = layers.findIndex((one) => one.id === id) + by;
    if (to >= 0 && to < layers.length) void moveLayer(id, to);
  });
const besideReason = (by: number) => (): string | null => {
  const { layers } = useDocument.getState();
  const to = layers.findIndex(({ id }) => id === useLayers.getState().selected) + by;
  return to >= 0 && to < layers.length ? null : `It is the ${by < 0 ? 'top' : 'lowest'} layer.`;
};

export const dressActions: Action[] = reasons.needing(reasons.clip, [
  {
    id: 'add-cover',
    group: 'Dress',
    label: 'Add a cover',
    icon: EyeOff,
    wish: 'hide blur face number plate mosaic censor privacy',
    run: dressing(() => void addLayer('cover')),
  },
  {
    id: 'add-colour',
    group: 'Dress',
    label: 'Add a change of colours',
    icon: Palette,
    wish: 'hue saturation recolour grade tint',
    run: dressing(() => void addLayer('colour')),
  },
  {
    id: 'add-fill',
    group: 'Dress',
    label: 'Fill in from other frames',
    icon: BrushCleaning,
    wish: 'clean plate remove object paint out repair restore',
    run: dressing(() => void addLayer('fill')),
  },
  {
    id: 'brush',
    group: 'Dress',
    label: 'Repair with the brush',
    icon: Paintbrush,
    keys: ['x'],
    wish: 'paint clone heal retouch scratch remove mend',
    isOn: () => useView.getState().tool === 'brush',
    run: dressing(() => takeTool('brush')),
  },
  {
    id: 'add-text',
    group: 'Dress',
    label: 'Add text',
    icon: Type,
    wish: 'title words sign caption',
    run: dressing(() => void addText()),
  },
  {
    id: 'add-still',
    group: 'Dress',
    label: 'Add a still of this frame',
    icon: Camera,
    wish: 'freeze picture patch',
    run: dressing(() => {
      const { clip } = useDocument.getState();
      if (clip) void addClip(clip, 'still');
    }),
  },
  {
    id: 'draw-outline',
    group: 'Dress',
    label: 'Draw what is seen of the layer',
    icon: Spline,
    wish: 'shape mask roto spline outline',
    isOn: () => useView.getState().tool === 'outline',
    unavailable: open,
    run: () => takeTool('outline'),
  },
  {
    id: 'draw-cutout',
    group: 'Dress',
    label: 'Draw what is cut out of the layer',
    icon: SquareDashed,
    wish: 'shape mask hole hold out',
    isOn: () => useView.getState().tool === 'cutout',
    unavailable: open,
    run: () => takeTool('cutout'),
  },
  {
    id: 'pick-colour',
    group: 'Dress',
    label: 'Take the colour of the layer’s key from the picture',
    icon: Pipette,
    wish: 'chroma green screen pipette eyedropper',
    isOn: () => useView.getState().tool === 'pipette',
    unavailable: open,
    run: () => takeTool('pipette'),
  },
  {
    id: 'show-matte',
    group: 'Dress',
    label: 'Show the layer’s matte',
    icon: Shapes,
    wish: 'alpha mask black white',
    isOn: () => useLayers.getState().matte,
    unavailable: someLayer,
    run: () => useLayers.setState(({ matte }) => ({ matte: !matte })),
  },
  {
    id: 'key-layer',
    group: 'Dress',
    label: 'Key where the layer is here',
    icon: KeyRound,
    wish: 'keyframe animate pose',
    unavailable: open,
    run: withLayer((layer) => keyLayer(layer, {})),
  },
  {
    id: 'key-outlines',
    group: 'Dress',
    label: 'Key the layer’s outlines here',
    icon: KeyRound,
    wish: 'keyframe animate roto shape',
    unavailable: reasons.all(open, () =>
      selected()?.shape.parts.length ? null : 'The layer has no outline: draw one first.',
    ),
    run: withLayer(keyOutlines),
  },
  {
    id: 'hide-layer',
    group: 'Dress',
    label: 'Hide or show the layer',
    icon: Eye,
    wish: 'visible off on',
    isOn: () => selected()?.hidden ?? false,
    unavailable: someLayer,
    run: withLayer(({ id, hidden }) => changeLayer(id, { hidden: !hidden })),
  },
  {
    id: 'lock-layer',
    group: 'Dress',
    label: 'Lock or unlock the layer',
    icon: Lock,
    wish: 'protect',
    isOn: () => selected()?.locked ?? false,
    unavailable: someLayer,
    run: withLayer(({ id, locked }) => changeLayer(id, { locked: !locked })),
  },
  {
    id: 'layer-up',
    group: 'Dress',
    label: 'Move the layer up',
    icon: ArrowUp,
    wish: 'order above front',
    unavailable: reasons.all(someLayer, besideReason(-1)),
    run: move(-1),
  },
  {
    id: 'layer-down',
    group: 'Dress',
    label: 'Move the layer down',
    icon: ArrowDown,
    wish: 'order below back',
    unavailable: reasons.all(someLayer, besideReason(1)),
    run: move(1),
  },
  {
    id: 'copy-layer',
    group: 'Dress',
    label: 'Duplicate the layer',
    icon: Copy,
    wish: 'copy again',
    unavailable: someLayer,
    run: withLayer(({ id }) => void copyLayer(id)),
  },
  {
    id: 'delete-layer',
    group: 'Dress',
    label: 'Delete the layer',
    icon: Trash2,
    wish: 'remove',
    unavailable: open,
    run: withLayer(({ id }) => void removeLayer(id)),
  },
]);
