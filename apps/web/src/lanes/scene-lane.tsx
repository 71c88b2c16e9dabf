import type { FrameTimes } from '@lurn/core';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { useTimeWindow } from '../state/time-window';
import { groupMark, groupShade } from '../ui/group-mark';
import { across } from './across';
import { frameUnder, Row } from './timeline';

/** The shots of the scene, with the mark of what is held in each; stripes where nothing could be followed. */
export function SceneLane({ times }: { times: FrameTimes }) {
  const scene = useDocument((s) => s.scene);
  const window = useTimeWindow();
  if (!scene) return null;
  return (
    <Row className="h-6 shrink-0" label={<span className="truncate">{scene.name}</span>}>
      <div
        className={`relative h-6 overflow-hidden ${scene.used ? '' : 'opacity-45'}`}
        data-testid="scene-lane"
        onPointerDown={(event) => go(frameUnder(event, event.currentTarget, times))}
      >
        {scene.shots.map((shot, i) => (
          <span
            key={shot.first}
            className="absolute top-1 bottom-1 flex items-center overflow-hidden rounded-sm border-l-2 border-base-content/70 bg-base-content/12 px-1"
            style={across(window, times, shot.first, shot.last)}
            title={`Shot ${i + 1}: frames ${shot.first} to ${shot.last}`}
            data-testid="shot-span"
          >
            <svg width={12} height={12} viewBox="-7 -7 14 14" aria-hidden className="shrink-0">
              <path
                d={`M0 0${groupMark(shot.group)}`}
                stroke={groupShade(shot.group)}
                strokeWidth={1.8}
                fill={groupShade(shot.group)}
              />
            </svg>
          </span>
        ))}
        {scene.shots.flatMap(({ bridged }) =>
          bridged.map(({ first, last }) => (
            <span
              key={`bridged ${first}`}
              className="absolute top-1 bottom-1 min-w-0.5 bg-[repeating-linear-gradient(115deg,var(--color-warning)_0_2px,transparent_2px_5px)]"
              style={across(window, times, first, last)}
              title={`Nothing to hold on to on frames ${first} to ${last}: bridged`}
              data-testid="bridged-span"
            />
          )),
        )}
      </div>
    </Row>
  );
}
