import { Grid3x3, Images, SquareDashed, SquareSlash, SquareStack, VectorSquare } from 'lucide-react';
import { keyOutline, selectedRegion, useRegions } from '../state/regions';
import { takeTool, useView } from '../state/view';
import { useWorkspace } from '../state/workspace';
import type { Action } from './action';
import * as reasons from './reasons';

const someRegion = (): string | null => {
  const track = selectedRegion();
  if (!track) return 'Choose a region first.';
  return track.locked ? 'The region is locked: unlock it first.' : null;
};

export const regionActions: Action[] = reasons.needing(reasons.clip, [
  {
    id: 'region',
    group: 'Follow',
    label: 'Draw a region',
    icon: VectorSquare,
    keys: ['q'],
    wish: 'flat area plane surface screen sign board corner pin planar',
    isOn: () => useView.getState().tool === 'region',
    run: () => {
      useWorkspace.setState({ step: 'follow' });
      takeTool('region');
    },
  },
  {
    id: 'region-hold-out',
    group: 'Follow',
    label: 'Hold something out of the region',
    icon: SquareDashed,
    wish: 'occlusion mask passes in front ignore',
    isOn: () => useView.getState().tool === 'hold-out',
    unavailable: someRegion,
    run: () => takeTool('hold-out'),
  },
  {
    id: 'region-outline',
    group: 'Follow',
    label: 'Look for the region elsewhere from this frame on',
    icon: SquareStack,
    wish: 'key outline mask shape change',
    unavailable: someRegion,
    run: () => {
      const track = selectedRegion();
      if (track) keyOutline(track);
    },
  },
  {
    id: 'region-squares',
    group: 'Look',
    label: 'Numbered squares in the quad',
    icon: Grid3x3,
    wish: 'checkerboard check grid planar test',
    isOn: () => useRegions.getState().checked,
    unavailable: () => (selectedRegion() ? null : 'Choose a region first.'),
    run: () => useRegions.setState(({ checked }) => ({ checked: !checked })),
  },
  {
    id: 'region-left-out',
    group: 'Look',
    label: 'What of the region is left out',
    icon: SquareSlash,
    wish: 'occlusion covered in front disagree',
    isOn: () => useRegions.getState().showsLeftOut,
    unavailable: () => (selectedRegion() ? null : 'Choose a region first.'),
    run: () => useRegions.setState(({ showsLeftOut }) => ({ showsLeftOut: !showsLeftOut })),
  },
  {
    id: 'region-compared',
    group: 'Look',
    label: 'The held patch beside its key',
    icon: Images,
    wish: 'difference compare check slipped',
    isOn: () => useRegions.getState().compared,
    unavailable: () => (selectedRegion() ? null : 'Choose a region first.'),
    run: () => useRegions.setState(({ compared }) => ({ compared: !compared })),
  },
]);
