import { useQuery } from '@tanstack/react-query';
import type { ExportRequest } from '@lurn/contract';
import { Film, Layers } from 'lucide-react';
import { useState } from 'react';
import { isSteadied, uncovered, type PairLayout } from '@lurn/core';
import { ActionButton } from '../../actions/action-button';
import { api } from '../../api/client';
import { useDocument } from '../../state/document';
import { useDressing } from '../../state/dressing';
import { go } from '../../state/editor';
import { estimate, useExporting } from '../../state/exporting';
import { startExport } from '../../state/steadying';
import { useTracksOut } from '../../state/tracks-out';
import { bytes, duration } from '../../ui/format';
import { Section } from '../section';
import { Encoding } from './encoding';
import { Queue } from './queue';
import { SeveralClips } from './several-clips';

/** Getting things out: the movie, the tracks, the motion. */
export function ExportPanel() {
  const clip = useDocument((s) => s.clip);
  const out = useTracksOut();
  const set = useTracksOut.setState;
  if (!clip) return null;
  return (
    <Section title="Export">
      <MovieExport />
      <div className="mt-4 space-y-2 border-t border-base-300 pt-3">
        <h3 className="text-base-content/75">Tracks and motion</h3>
        <div className="flex gap-4">
          <Toggle
            label="Chosen tracks only"
            on={out.chosenOnly}
            onChange={(chosenOnly) => set({ chosenOnly })}
          />
          <Toggle label="Range only" on={out.rangeOnly} onChange={(rangeOnly) => set({ rangeOnly })} />
        </div>
        <div className="grid grid-cols-2 gap-1.5">
          {(
            [
              'tracks-csv',
              'tracks-json',
              'tracks-copy',
              'motion-json',
              'motion-csv',
              'motion-corners',
              'motions-csv',
              'motions-corners',
              'still',
              'still-tiff',
              'import',
            ] as const
          ).map((id) => (
            <Out key={id} id={id} />
          ))}
        </div>
      </div>
    </Section>
  );
}

/** The movie: what it shows, what it is written as, and what it will come to. */
function MovieExport() {
  const [several, setSeveral] = useState(false);
  const { treated, comparison } = useExporting((s) => s.request);
  const moves = useDocument(
    (s) =>
      (s.result !== null && s.steady !== null && isSteadied(s.result.motion, s.steady)) ||
      s.layers.some(({ hidden }) => !hidden),
  );
  const bare = useDocument((s) => s.result?.bare.length ?? 0);
  const edge = useDocument((s) => s.steady?.edge);
  return (
    <>
      <Shown />
      <Encoding />
      <div className="join mt-2.5 w-full">
        <button
          className="btn btn-sm btn-primary join-item flex-1"
          disabled={!moves || treated === ''}
          onClick={() => void startExport()}
          title={
            !moves
              ? 'Find the camera’s motion or follow a point first'
              : treated === ''
                ? 'Choose the treated movie first'
                : undefined
          }
        >
          <Film size={14} aria-hidden /> Export movie
        </button>
        <button
          className="btn btn-sm btn-primary btn-soft join-item"
          onClick={() => setSeveral(true)}
          aria-label="Several clips…"
          title="Several clips…"
        >
          <Layers size={14} aria-hidden />
        </button>
      </div>
      <Estimate />
      {moves && bare > 0 && edge === 'black' && treated === undefined && comparison === undefined && (
        <p className="mt-1.5 text-warning">
          Bare edges will be black in {bare === 1 ? 'one frame' : `${bare} frames`}.
        </p>
      )}
      <MayBeSeen />
      <Queue />
      <SeveralClips open={several} onClose={() => setSeveral(false)} />
    </>
  );
}

/** Covers that do not cover on every frame that is exported, named before it is. */
function MayBeSeen() {
  const carried = useDressing((s) => s.carried);
  const range = useDocument((s) => s.steady?.range);
  if (!range) return null;
  const open = carried.flatMap(({ layer, carriage }) => {
    if (layer.content.kind !== 'cover') return [];
    const frames = uncovered(layer, carriage, range);
    return frames.length > 0 ? [{ name: layer.name, frames }] : [];
  });
  return open.map(({ name, frames }) => (
    <p key={name} className="mt-1.5 leading-snug text-warning">
      “{name}” may not cover on {frames.length === 1 ? 'one frame' : `${frames.length} frames`}, the first{' '}
      <button className="link" onClick={() => go(frames[0])}>
        {frames[0]}
      </button>
      .
    </p>
  ));
}

const shows = [
  { id: 'steadied', name: 'The steadied picture' },
  { id: 'comparison', name: 'Before and after' },
  { id: 'treated', name: 'A treated movie, moved back' },
  { id: 'layers', name: 'The layers alone, with alpha' },
  { id: 'matte', name: 'What the layers cover, as a matte' },
] as const;

const layouts = [
  { id: 'side', name: 'beside each other' },
  { id: 'stack', name: 'above each other' },
  { id: 'wipe', name: 'a moving wipe' },
] as const satisfies { id: PairLayout; name: string }[];

/** What the movie shows. */
function Shown() {
  const request = useExporting((s) => s.request);
  const { comparison, treated, only } = request;
  const set = (part: ExportRequest): void =>
    useExporting.setState({
      request: { ...request, comparison: undefined, treated: undefined, only: undefined, ...part },
    });
  return (
    <div className="mb-1.5 space-y-1.5" data-testid="shown">
      <select
        className="select select-sm w-full"
        aria-label="What the movie shows"
        value={treated !== undefined ? 'treated' : comparison ? 'comparison' : (only ?? 'steadied')}
        onChange={({ target: { value } }) =>
          set(
            value === 'comparison'
              ? { comparison: { layout: 'side', words: true } }
              : value === 'treated'
                ? { treated: '' }
                : value === 'layers'
                  ? { only: 'layers', codec: 'prores4444', container: 'mov', bits: undefined }
                  : value === 'matte'
                    ? { only: 'matte' }
                    : {},
          )
        }
      >
        {shows.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
      {comparison && (
        <div className="flex items-center justify-between gap-3">
          <select
            className="select select-xs w-36"
            aria-label="How they are shown"
            value={comparison.layout}
            onChange={({ target: { value } }) =>
              set({ comparison: { ...comparison, layout: value as (typeof layouts)[number]['id'] } })
            }
          >
            {layouts.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
          <Toggle
            label="With words"
            on={comparison.words}
            onChange={(words) => set({ comparison: { ...comparison, words } })}
          />
        </div>
      )}
      {treated !== undefined && <Treated chosen={treated} onChoose={(id) => set({ treated: id })} />}
    </div>
  );
}

/** The clip that was exported from this one and treated elsewhere: it has the frames and the size that were exported. */
function Treated({ chosen, onChoose }: { chosen: string; onChoose: (id: string) => void }) {
  const clip = useDocument((s) => s.clip);
  const steady = useDocument((s) => s.steady);
  const project = useQuery({
    queryKey: ['project', clip?.projectId],
    queryFn: () => api.project(clip?.projectId ?? ''),
    enabled: clip !== null,
  });
  if (!clip || !steady) return null;
  const { width, height } = steady.output ?? clip;
  const frames = 1 + steady.range.last - steady.range.first;
  const fitting = (project.data?.clips ?? []).filter(
    (one) =>
      one.id !== clip.id &&
      one.state === 'ready' &&
      one.frames === frames &&
      one.width === width &&
      one.height === height,
  );
  if (project.data && fitting.length === 0)
    return (
      <p className="leading-snug text-base-content/75">
        Add the treated movie to the project like any clip. It has {frames} frames of {width}×{height}, as
        they are exported now; none of the project’s other clips has.
      </p>
    );
  return (
    <select
      className="select select-xs w-full"
      aria-label="Treated movie"
      value={chosen}
      onChange={({ target: { value } }) => onChoose(value)}
    >
      <option value="" disabled>
        Choose the treated movie
      </option>
      {fitting.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** What the movie will come to, about. */
function Estimate() {
  const clip = useDocument((s) => s.clip);
  const steady = useDocument((s) => s.steady);
  const request = useExporting((s) => s.request);
  if (!clip || !steady) return null;
  const { width, height } = (request.treated === undefined ? steady.output : undefined) ?? clip;
  const frames = request.treated === undefined ? 1 + steady.range.last - steady.range.first : clip.frames;
  const pictures = request.comparison && request.comparison.layout !== 'wipe' ? 2 : 1;
  const come = estimate(request, pictures * width * height * frames, clip.exportPaces);
  return (
    <p className="mt-1.5 text-[11.5px] text-base-content/75" data-testid="rough-size">
      {frames} frames of {width}×{height}: about {bytes(come.bytes)}, {duration(come.seconds)}.
    </p>
  );
}

const short = {
  'tracks-csv': 'Tracks CSV',
  'tracks-json': 'Tracks JSON',
  'tracks-copy': 'Copy tracks',
  'motion-json': 'Motion JSON',
  'motion-csv': 'Motion CSV',
  'motion-corners': 'Corners CSV',
  'motions-csv': 'CSV by track',
  'motions-corners': 'Corners by track',
  still: 'Frame as PNG',
  'still-tiff': 'Frame as TIFF',
  import: 'Take tracks in…',
};

function Out({ id }: { id: keyof typeof short }) {
  return <ActionButton id={id} className="btn-xs justify-start gap-1.5 font-normal" text={short[id]} />;
}

function Toggle({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-1.5">
      <input
        type="checkbox"
        className="checkbox checkbox-xs rounded-[3px]"
        checked={on}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
