import type { SteadyView } from '@lurn/contract';
import { motionModels, type MotionModel } from '@lurn/core';
import { useDocument } from '../state/document';
import { usePlayhead } from '../state/playhead';
import { shotAt } from '../state/scene';
import { changeSteady } from '../state/steadying';

const names: Record<MotionModel, string> = {
  shift: 'Shift',
  rotation: '+ rotation',
  similarity: '+ scale',
  perspective: 'Perspective',
};

/** What the motion may do, each with how far it leaves the features of the group that is held. */
export function ModelChoice() {
  const model = useDocument((s) => s.steady?.model ?? 'auto');
  const scene = useDocument((s) => s.scene);
  const tracks = useDocument((s) => s.tracks.filter(({ used }) => used).length);
  const hasRegion = useDocument((s) => s.tracks.some(({ used, region }) => used && region));
  const shot = usePlayhead((s) => Math.max(shotAt(scene, s.frame), 0));
  const there = scene?.used ? scene.shots.at(shot) : undefined;
  const group = there?.groups.at(there.group);
  const residual = (one: MotionModel): string => (group ? ` · ${group.residuals[one].toFixed(2)} px` : '');
  return (
    <label className="mt-2.5 flex items-center justify-between gap-2">
      <span>Model</span>
      <select
        className="select select-xs w-40"
        value={model}
        aria-label="What the motion may do"
        title={
          group
            ? 'How far each leaves the features of the group that is held, RMS pixels'
            : tracks < 4
              ? 'Perspective takes four points or more; one point alone turns and grows as its box does'
              : undefined
        }
        onChange={(event) => changeSteady({ model: event.target.value as SteadyView['model'] }, 'Model')}
      >
        <option value="auto">
          {group ? `Simplest: ${names[group.proposed].toLowerCase()}` : 'As points tell'}
        </option>
        {motionModels.map((one) => (
          <option
            key={one}
            value={one}
            disabled={!group && one === 'perspective' && tracks < 4 && !hasRegion}
          >
            {names[one]}
            {residual(one)}
          </option>
        ))}
      </select>
    </label>
  );
}
