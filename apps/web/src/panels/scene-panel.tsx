import type { GroupView, ShotView } from '@lurn/contract';
import { Circle, CircleDot, Eye, EyeOff, RotateCw, Trash2, Video } from 'lucide-react';
import { useAction } from '../actions/use-action';
import { latestJob, runningJob, useDocument } from '../state/document';
import { go, startAgain } from '../state/editor';
import { usePlayhead } from '../state/playhead';
import { shotAt, useScene } from '../state/scene';
import { changeScene, deleteScene, findMotion, holdGroup } from '../state/scene-edits';
import { percent } from '../ui/format';
import { groupMark, groupShade, placeInWords } from '../ui/group-mark';
import { IconToggle } from '../ui/icon-toggle';
import { JobBar } from './job-bar';
import { Section } from './section';

/** The whole picture's motion: finding it, and what of it is held. */
export function ScenePanel() {
  const scene = useDocument((s) => s.scene);
  const job = useDocument(runningJob('scene'));
  const last = useDocument(latestJob('scene'));
  const cutShort = last && (last.state === 'interrupted' || last.state === 'failed') ? last : null;
  return (
    <Section
      title="The whole picture"
      aside={
        scene && !job ? (
          <span className="flex gap-0.5">
            <IconToggle
              label={scene.used ? 'Leave the scene out of the motion' : 'Take the scene into the motion'}
              pressed={scene.used}
              onClick={() => void changeScene({ used: !scene.used })}
            >
              {scene.used ? <CircleDot size={14} /> : <Circle size={14} />}
            </IconToggle>
            <IconToggle
              label={scene.hidden ? 'Show what was followed' : 'Hide what was followed'}
              pressed={!scene.hidden}
              onClick={() => void changeScene({ hidden: !scene.hidden })}
            >
              {scene.hidden ? <EyeOff size={14} /> : <Eye size={14} />}
            </IconToggle>
            <IconToggle label="Find the camera’s motion anew" onClick={() => void findMotion()}>
              <RotateCw size={13} />
            </IconToggle>
            <IconToggle label="Delete the scene" onClick={() => void deleteScene()}>
              <Trash2 size={14} />
            </IconToggle>
          </span>
        ) : null
      }
    >
      {job ? <Finding /> : scene ? <Shots /> : <FindMotion />}
      {!job && cutShort && (
        <p className="mt-2 flex items-center gap-2 text-warning" data-testid="scene-cut-short">
          <span className="flex-1">
            {cutShort.state === 'failed' ? cutShort.error : 'Finding the motion was cut short.'}
          </span>
          {cutShort.state === 'interrupted' && (
            <button className="btn btn-xs" onClick={() => void startAgain(cutShort.id)}>
              Start again
            </button>
          )}
        </p>
      )}
    </Section>
  );
}

function FindMotion() {
  const { action, reason } = useAction('find-motion');
  return (
    <div className="space-y-2 leading-relaxed text-base-content/80">
      <button
        className="btn btn-sm btn-primary w-full"
        disabled={reason !== null}
        title={reason ?? undefined}
        onClick={action.run}
      >
        <Video size={14} aria-hidden /> Find the camera’s motion
      </button>
      <p>By itself, over the whole clip: what moves alike is sorted out, and what covers most is held.</p>
    </div>
  );
}

function Finding() {
  const job = useDocument(runningJob('scene'));
  if (!job) return null;
  return (
    <div className="flex items-center gap-2" data-testid="finding-motion">
      <JobBar
        job={job}
        label="Finding the camera’s motion"
        stopping="Stop; the motion of the frames seen so far is kept"
      />
    </div>
  );
}

/** The shot that is shown: its groups, and how deep it is held. */
function Shots() {
  const scene = useDocument((s) => s.scene);
  const shot = usePlayhead((s) => Math.max(shotAt(scene, s.frame), 0));
  const there = scene?.shots.at(shot);
  if (!scene || !there) return null;
  return (
    <div className={scene.used ? '' : 'opacity-60'}>
      {scene.shots.length > 1 && <ShotLine shots={scene.shots} shot={shot} />}
      {there.groups.length === 0 && (
        <p className="py-1 leading-relaxed text-base-content/80">
          Nothing in this shot moves together. Place a point on something with contrast.
        </p>
      )}
      <ul className="-mx-1.5" role="radiogroup" aria-label="What is held">
        {there.groups.map((group, g) => (
          <GroupRow key={g} shot={shot} group={g} view={group} of={there} />
        ))}
      </ul>
      <DepthSlider shot={shot} of={there} />
      {there.bridged.length > 0 && <Bridged spans={there.bridged} />}
    </div>
  );
}

function ShotLine({ shots, shot }: { shots: readonly ShotView[]; shot: number }) {
  return (
    <p className="mb-1 flex items-center justify-between text-[11px] text-base-content/75" data-testid="shot">
      <span>
        Shot {shot + 1} of {shots.length}: frames {shots[shot].first} to {shots[shot].last}
      </span>
      <span className="flex gap-1">
        <button
          className="btn btn-ghost btn-xs"
          disabled={shot === 0}
          onClick={() => go(shots[shot - 1].first)}
        >
          Before
        </button>
        <button
          className="btn btn-ghost btn-xs"
          disabled={shot === shots.length - 1}
          onClick={() => go(shots[shot + 1].first)}
        >
          Next
        </button>
      </span>
    </p>
  );
}

function GroupRow({ shot, group, view, of }: { shot: number; group: number; view: GroupView; of: ShotView }) {
  const lit = useScene((s) => s.lit?.shot === shot && s.lit.group === group);
  const isHeld = of.group === group && of.depth === null;
  const span = view.first > of.first || view.last < of.last ? `, frames ${view.first} to ${view.last}` : '';
  const light = (on: boolean): void => useScene.setState({ lit: on ? { shot, group } : null });
  return (
    <li>
      <button
        role="radio"
        aria-checked={isHeld}
        className={`grid h-8.5 w-full grid-cols-[16px_1fr_auto] items-center gap-2 rounded-md px-1.5 text-left ${isHeld ? 'bg-base-300' : ''} ${lit ? 'outline outline-1 outline-base-content/40' : 'hover:bg-base-300/50'}`}
        data-testid="group-row"
        title={`${view.members + view.heldOut} features, ${view.residuals[view.proposed].toFixed(2)} px RMS from their motion (${view.proposed})${span}; click to hold it`}
        onPointerEnter={() => light(true)}
        onPointerLeave={() => light(false)}
        onFocus={() => light(true)}
        onBlur={() => light(false)}
        onClick={() => holdGroup(shot, group)}
      >
        <svg width={16} height={16} viewBox="-8 -8 16 16" aria-hidden>
          <path
            d={`M0 0${groupMark(group)}`}
            stroke={groupShade(group)}
            strokeWidth={1.8}
            fill={isHeld ? groupShade(group) : 'none'}
          />
        </svg>
        <span className="min-w-0 leading-tight">
          <span className="block truncate">
            {percent(view.share, 0)} of the picture
            {isHeld && <span className="text-base-content/70"> · held</span>}
          </span>
          <span className="block truncate text-[11px] text-base-content/70">
            {placeInWords(group, view.depth)}
            {group > 0 && `, slides ${view.slide.toFixed(view.slide < 10 ? 1 : 0)} px`}
            {span}
          </span>
        </span>
        <span className="font-mono text-[11px] text-base-content/75">
          {view.residuals[view.proposed].toFixed(2)} px
        </span>
      </button>
    </li>
  );
}

/** Any depth, where the camera travels. */
function DepthSlider({ shot, of }: { shot: number; of: ShotView }) {
  const depths = of.groups.flatMap(({ depth }) => (depth === null ? [] : [depth]));
  if (depths.length < 2) return null;
  const [low, high] = [Math.min(...depths), Math.max(...depths)];
  const beyond = 0.15 * (high - low);
  const value = of.depth ?? of.groups.at(of.group)?.depth ?? 0;
  return (
    <label className="mt-2 block" data-testid="depth">
      <span className="flex justify-between">
        <span>Depth held</span>
        <span className="text-[11px] text-base-content/70">
          {of.depth === null ? 'that of the group' : 'by hand'}
        </span>
      </span>
      <input
        type="range"
        className="range range-secondary range-xs mt-1.5 w-full [--range-fill:0]"
        min={low - beyond}
        max={high + beyond}
        step={(high - low) / 400}
        value={value}
        aria-label="Depth that is held"
        aria-valuetext={`${percent((value - low) / (high - low), 0)} of the way from far to near`}
        onChange={(event) => holdGroup(shot, 0, Number(event.target.value))}
      />
      <span className="flex justify-between text-[11px] text-base-content/70" aria-hidden>
        <span>far</span>
        <span>near</span>
      </span>
    </label>
  );
}

function Bridged({ spans }: { spans: ShotView['bridged'] }) {
  const [{ first, last }] = spans;
  const frames = first === last ? `frame ${first}` : `frames ${first} to ${last}`;
  return (
    <p className="mt-2 flex items-center justify-between text-[11px] text-warning" data-testid="bridged">
      <span>
        Nothing to hold on to on {frames}
        {spans.length > 1 ? ` and ${spans.length - 1} more` : ''}: bridged.
      </span>
      <button className="btn btn-ghost btn-xs" onClick={() => go(first)}>
        Go there
      </button>
    </p>
  );
}
