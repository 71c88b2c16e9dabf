import { Video } from 'lucide-react';
import { runningJob, useDocument } from '../state/document';
import { cancelJob } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { shotAt } from '../state/scene';
import { changeScene, deleteScene, findMotion, holdGroup } from '../state/scene-edits';
import * as reasons from './reasons';

const document = () => useDocument.getState();

const finding = () => runningJob('scene')(document());

/** Holds another group of the shot that is shown. */
function holdBeside(step: number): void {
  const { scene } = document();
  const shot = shotAt(scene, usePlayhead.getState().frame);
  const there = scene?.shots.at(shot);
  if (shot < 0 || !there || there.groups.length === 0) return;
  holdGroup(shot, (there.group + step + there.groups.length) % there.groups.length);
}

export const sceneActions = reasons.needing(reasons.scene, [
  {
    id: 'find-motion',
    group: 'Follow',
    label: 'Find the camera’s motion',
    icon: Video,
    keys: ['f'],
    wish: 'scene whole picture automatic shaky stabilise start groups analyse',
    unavailable: reasons.all(reasons.clip, () => (finding() ? 'It is being found already.' : null)),
    run: () => void findMotion(),
  },
  {
    id: 'stop-finding',
    group: 'Follow',
    label: 'Stop finding the motion',
    wish: 'cancel scene',
    unavailable: () => (finding() ? null : 'The motion is not being looked for.'),
    run: () => {
      const job = finding();
      if (job) void cancelJob(job.id);
    },
  },
  {
    id: 'hold-next-group',
    group: 'Follow',
    label: 'Hold the next motion group',
    keys: ['Shift+H'],
    wish: 'scene near far subject depth',
    run: () => holdBeside(1),
  },
  {
    id: 'hold-previous-group',
    group: 'Follow',
    label: 'Hold the previous motion group',
    wish: 'scene near far subject depth',
    run: () => holdBeside(-1),
  },
  {
    id: 'scene-use',
    group: 'Follow',
    label: 'Take the scene into the motion',
    wish: 'leave out whole picture',
    isOn: () => document().scene?.used ?? false,
    run: () => void changeScene({ used: !document().scene?.used }),
  },
  {
    id: 'scene-show',
    group: 'Follow',
    label: 'Show what moves alike',
    wish: 'hide marks groups features',
    isOn: () => document().scene?.hidden === false,
    run: () => void changeScene({ hidden: !document().scene?.hidden }),
  },
  {
    id: 'scene-delete',
    group: 'Follow',
    label: 'Delete the scene',
    run: () => void deleteScene(),
  },
]);
