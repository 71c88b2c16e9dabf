import type { ClipView, SteadyView } from '@lurn/contract';
import {
  carriedBy,
  outputOf,
  parsePixelAspect,
  resamplingNames,
  viewOf,
  windowOf,
  type Placing,
  type SteadyResult,
} from '@lurn/core';
import {
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type PointerEvent,
  type ReactNode,
  type WheelEvent,
} from 'react';
import { ActionContextMenu } from '../actions/action-menu';
import { api } from '../api/client';
import { timesOf } from '../state/clip-times';
import { useDressing } from '../state/dressing';
import { heldPlacing, useHeld } from '../state/held';
import { takeColour, useLayers } from '../state/layers';
import { useDocument } from '../state/document';
import { useCompared } from '../state/kept';
import { usePlayhead } from '../state/playhead';
import { usePreferences } from '../state/preferences';
import { useSelection } from '../state/selection';
import { useView } from '../state/view';
import { ErrorNote } from '../ui/error-note';
import { fullFrame, Loupe } from './loupe';
import { Areas, Draft } from './overlays/areas';
import { BrushMarks } from './overlays/brush-marks';
import type { Aim } from './overlays/box';
import { Boxes } from './overlays/boxes';
import { GroupMarks } from './overlays/group-marks';
import { Guides } from './overlays/guides';
import { LayerOutlines } from './overlays/layer-outlines';
import { Regions } from './overlays/regions';
import { Paths } from './overlays/paths';
import { WanderMark } from './overlays/wander-mark';
import { WipeEdge } from './overlays/wipe-edge';
import { layOut, paneAt, wholePictures, zoomAbout, type PaneGeometry } from './panes';
import { rideOn, riding } from './ride';
import type { OutputLook, StageNews, StageOrder } from './stage-messages';
import { HeldChoice } from './held-choice';
import { ToolHint } from './tool-hint';
import { makeTool } from './tools/make-tool';
import type { StagePointer, StageTool } from './tools/stage-tool';

const noClip = { id: '', width: 1, height: 1, frames: 1, frameRate: '25/1', times: null, pixelAspect: '1:1' };

/** Milliseconds. */
const restBeforeWarming = 400;

const names = { source: 'Source', steadied: 'Steadied', held: 'Held' };

/** What can be done where the pictures are, with the chosen tracks and with the view. */
const stageMenu = [
  ...['place', 'follow-both', 'key', 'hand', 'aside', 'ride'],
  null,
  ...['use', 'hide', 'lock', 'delete'],
  null,
  ...['guide-line', 'guide-cross', 'no-guides', 'whole-picture', 'still'],
];

/** The pictures: source and steadied, drawn by the stage's worker, with boxes and handles over them. */
export function Stage() {
  // How many layers are shown, with all that they are made of.
  const dressed = useDressing((s) => s.carried.length);
  const clip = useDocument((s) => s.clip);
  const view = useView((s) => s.view);
  const viewports = useView((s) => s.viewports);
  const wipe = useView((s) => s.wipe);
  const tool = useView((s) => s.tool);
  const stage = useRef<HTMLDivElement>(null);
  const worker = useRef<Worker | null>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [failure, setFailure] = useState<string | null>(null);
  const [aimed, setAimed] = useState<{ aim: Aim; tool: string } | null>(null);
  // A tool put down takes its loupe with it.
  const aim = aimed?.tool === tool ? aimed.aim : null;
  const setAim = (next: Aim | null): void => setAimed(next && { aim: next, tool: useView.getState().tool });
  const [cursor, setCursor] = useState('cursor-grab');
  const { id, width, height, frames, frameRate, times, pixelAspect: aspect } = clip ?? noClip;
  const picture = useMemo(
    () => ({ width, height, pixelAspect: parsePixelAspect(aspect) }),
    [width, height, aspect],
  );
  const own = useDocument((s) => s.steady?.output);
  const [outputWidth, outputHeight] = [own?.width, own?.height];
  const output = useMemo(
    () =>
      outputWidth && outputHeight ? { width: outputWidth, height: outputHeight, pixelAspect: 1 } : picture,
    [outputWidth, outputHeight, picture],
  );
  const compared = useCompared((s) => (s.result ? s.kept?.steady : undefined));
  const other = useMemo(
    () => compared && (compared.output ? { ...compared.output, pixelAspect: 1 } : picture),
    [compared, picture],
  );
  const heldSize = useHeldSize(picture.pixelAspect);
  const frameTimes = useMemo(() => timesOf({ frames, frameRate, times }), [frames, frameRate, times]);
  const panes = useMemo(
    () => (size.width > 0 ? layOut(view, size, picture, viewports, wipe, output, other, heldSize) : []),
    [view, size, picture, viewports, wipe, output, other, heldSize],
  );

  const ride = useRide();
  // The stage's background is the theme's.
  const theme = usePreferences((s) => s.theme);

  useLayoutEffect(() => {
    const host = stage.current as HTMLDivElement;
    const watch = new ResizeObserver(() => setSize({ width: host.clientWidth, height: host.clientHeight }));
    watch.observe(host);
    return () => watch.disconnect();
  }, []);

  // One worker and one canvas for each clip; they outlive every redraw.
  useEffect(() => {
    if (!id) return;
    const canvas = document.createElement('canvas');
    canvas.className = 'absolute inset-0 h-full w-full';
    canvas.setAttribute('aria-hidden', 'true');
    (stage.current as HTMLDivElement).prepend(canvas);
    const drawing = new Worker(new URL('./stage-worker.ts', import.meta.url), { type: 'module' });
    worker.current = drawing;
    drawing.onmessage = ({ data: news }: MessageEvent<StageNews>) => {
      if (news.type === 'failed') setFailure(news.reason);
      else if (news.type === 'ended') usePlayhead.setState({ playing: false, frame: news.frame });
      else if (news.type === 'picked') takeColour(news.colour);
      else if (news.type === 'shown') {
        const { playing } = usePlayhead.getState();
        const { frame, milliseconds } = news;
        usePlayhead.setState(
          playing ? { shown: frame, frame, milliseconds } : { shown: frame, milliseconds },
        );
      }
    };
    const offscreen = canvas.transferControlToOffscreen();
    const order: StageOrder = {
      type: 'open',
      canvas: offscreen,
      id,
      url: new URL(`/api/clips/${id}/proxy`, location.href).href,
      clip: picture,
      times: frameTimes,
    };
    drawing.postMessage(order, [offscreen]);
    const send = (message: StageOrder): void => drawing.postMessage(message);
    send({ type: 'show', frame: usePlayhead.getState().frame });
    const play = (): void => {
      const range = useDocument.getState().steady?.range ?? { first: 0, last: 0 };
      const { loop, playbackRate: rate, playbackSize } = usePreferences.getState();
      send({ type: 'play', from: usePlayhead.getState().frame, ...range, loop, rate, size: playbackSize });
    };
    const sendHatching = (): void => send({ type: 'hatching', hatched: useView.getState().hatched });
    const stopHatching = useView.subscribe((now, before) => now.hatched !== before.hatched && sendHatching());
    sendHatching();
    const compare = (): void => {
      const { flickers, view } = useView.getState();
      send({ type: 'compare', as: flickers ? 'source' : view === 'difference' ? 'difference' : 'itself' });
    };
    const layOnion = (): void => {
      const { view, onionGap } = useView.getState();
      send({ type: 'onion', apart: view === 'onion' ? onionGap : null });
    };
    const stopComparing = useView.subscribe((now, before) => {
      if (now.flickers !== before.flickers || now.view !== before.view) compare();
      if (now.onionGap !== before.onionGap || now.view !== before.view) layOnion();
    });
    compare();
    layOnion();
    const stopPreferences = usePreferences.subscribe(() => usePlayhead.getState().playing && play());
    const stopPlayhead = usePlayhead.subscribe((now, before) => {
      if (now.playing !== before.playing) {
        if (now.playing) play();
        else send({ type: 'pause' });
      }
      if (!now.playing && (now.frame !== before.frame || before.playing))
        send({ type: 'show', frame: now.frame });
    });
    const sendPlacements = (): void => {
      const { result, steady, clip } = useDocument.getState();
      if (!clip || !steady) return;
      send({
        type: 'placements',
        of: 'own',
        placing: placingOf(result),
        look: outputLook(clip, steady, result),
      });
    };
    const sendCompared = (): void => {
      const { kept, result } = useCompared.getState();
      const { steady, clip } = useDocument.getState();
      const settings = kept?.steady ?? steady;
      if (!clip || !settings) return;
      const placing = kept && placingOf(result);
      send({ type: 'placements', of: 'other', placing, look: outputLook(clip, settings, result) });
    };
    const stopCompared = useCompared.subscribe(
      (now, before) => (now.result !== before.result || now.kept !== before.kept) && sendCompared(),
    );
    sendCompared();
    const sendHeld = (): void => send({ type: 'held', placements: heldPlacing()?.placements ?? null });
    const stopHeld = useHeld.subscribe(sendHeld);
    const stopHolding = useDressing.subscribe((now, before) => now.held !== before.held && sendHeld());
    sendHeld();
    const sendLayers = (): void => {
      const { carried, pictures } = useDressing.getState();
      const { selected, matte } = useLayers.getState();
      send({ type: 'layers', layers: carried, pictures, matteOf: matte ? selected : null });
    };
    const stopDressing = useDressing.subscribe(sendLayers);
    const stopChosen = useLayers.subscribe((now, before) => {
      const isOther = now.matte !== before.matte || (now.matte && now.selected !== before.selected);
      if (isOther) sendLayers();
      if (now.picking && now.picking !== before.picking) {
        send({ type: 'pick', at: now.picking });
        useLayers.setState({ picking: null });
      }
    });
    const stopLayers = (): void => {
      stopDressing();
      stopChosen();
    };
    sendLayers();
    const stopDocument = useDocument.subscribe((now, before) => {
      // Whatever is chosen is solved anew.
      if (now.result !== before.result) sendPlacements();
    });
    sendPlacements();
    let seen = '';
    const sendAnalysis = (): void => {
      const { selected } = useSelection.getState();
      const { tracks } = useDocument.getState();
      const track = useView.getState().asSeen ? tracks.find((t) => t.id === selected) : undefined;
      const analysis = track ? { channel: track.channel, filter: track.filter, fields: track.fields } : null;
      if (JSON.stringify(analysis) === seen) return;
      seen = JSON.stringify(analysis);
      send({ type: 'analysis', analysis });
    };
    const stopAnalysis = [useView, useDocument, useSelection].map((store) => store.subscribe(sendAnalysis));
    sendAnalysis();
    // Frames about the one at rest are made ready for steps by hand.
    let rest: ReturnType<typeof setTimeout> | undefined;
    const warm = (): void => {
      clearTimeout(rest);
      const { playing, frame } = usePlayhead.getState();
      if (!playing)
        rest = setTimeout(() => void api.warm(id, frame).catch(() => undefined), restBeforeWarming);
    };
    const stopWarming = usePlayhead.subscribe((now, before) => {
      if (now.frame !== before.frame || now.playing !== before.playing) warm();
    });
    warm();
    return () => {
      stopAnalysis.forEach((stop) => stop());
      stopWarming();
      clearTimeout(rest);
      stopPlayhead();
      stopPreferences();
      stopDocument();
      stopHatching();
      stopComparing();
      stopCompared();
      stopHeld();
      stopHolding();
      stopLayers();
      drawing.terminate();
      worker.current = null;
      canvas.remove();
    };
  }, [id, picture, frameTimes]);

  useEffect(() => {
    if (size.width === 0) return;
    const ratio = window.devicePixelRatio;
    const order: StageOrder = {
      type: 'layout',
      ratio,
      panes,
      background: backgroundColour(stage.current as HTMLDivElement),
      width: Math.round(size.width * ratio),
      height: Math.round(size.height * ratio),
    };
    worker.current?.postMessage(order);
  }, [panes, size, id, theme]);

  useEffect(() => {
    const order: StageOrder = { type: 'ride', ride };
    worker.current?.postMessage(order);
  }, [ride, id]);

  const hand = useRef<{ tool: string; clip: string; machine: StageTool } | null>(null);
  const ridden = (): PaneGeometry[] => panes.map((pane) => riding(pane, ride, usePlayhead.getState().shown));
  const latest = useRef({ ridden, setAim });
  useEffect(() => {
    latest.current = { ridden, setAim };
  });

  if (!clip) return null;

  /** The tool in the hand; it lives until another is taken up. */
  const machine = (): StageTool => {
    if (hand.current?.tool !== tool || hand.current.clip !== id) {
      const context = {
        panes: () => latest.current.ridden(),
        clip: picture,
        shown: () => usePlayhead.getState().shown,
        aim: (next: Aim | null) => latest.current.setAim(next),
      };
      hand.current = { tool, clip: id, machine: makeTool(tool, context) };
    }
    return hand.current.machine;
  };
  const at = (event: { clientX: number; clientY: number }): { x: number; y: number } => {
    const box = (stage.current as HTMLDivElement).getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const pointer = (event: PointerEvent): StagePointer => {
    const p = at(event);
    const { shiftKey, altKey, pointerType, pressure } = event;
    const pressed = pointerType === 'pen' ? pressure : 1;
    return { at: p, pane: paneAt(ridden(), p), pressure: pressed, shiftKey, altKey };
  };
  const onWheel = (event: WheelEvent): void => {
    const p = at(event);
    const pane = paneAt(ridden(), p);
    if (!pane) return;
    const factor = Math.exp(-event.deltaY / 400);
    useView.setState({ viewports: zoomAbout(viewports, pane, p, factor, { alone: event.altKey }) });
  };
  const tell = (what: 'down' | 'move' | 'up' | 'leave', event: PointerEvent): void => {
    const own = machine();
    own[what](pointer(event));
    setCursor(own.cursor);
  };
  const aims = tool === 'place' || tool === 'aside' || tool === 'brush';
  const overlay = panes.some((pane) => pane.kind === 'source');

  return (
    <ActionContextMenu items={stageMenu}>
      <div
        className="relative h-full w-full overflow-hidden bg-base-300"
        ref={stage}
        data-testid="stage"
        data-dressed={dressed}
        data-panes={JSON.stringify(panes.map(({ kind, ...pane }) => [kind, pane]))}
      >
        {overlay && (
          <svg className="pointer-events-none absolute inset-0 h-full w-full will-change-transform">
            <Riding panes={panes} kind="source" ride={ride} id="paths">
              {(pane) => <Paths pane={pane} />}
            </Riding>
          </svg>
        )}
        <svg
          className={`absolute inset-0 h-full w-full touch-none select-none ${tool === 'move' || tool === 'hand' ? cursor : 'cursor-crosshair'}`}
          onWheel={onWheel}
          onPointerDown={(event) => {
            // The other button opens the menu.
            if (event.button === 2 || (event.button !== 0 && tool !== 'move' && tool !== 'hand')) return;
            event.currentTarget.setPointerCapture(event.pointerId);
            tell('down', event);
          }}
          onPointerMove={(event) => tell('move', event)}
          onPointerEnter={() =>
            aims &&
            tool !== 'brush' &&
            void fullFrame(id, usePlayhead.getState().shown).catch(() => undefined)
          }
          onPointerLeave={(event) => aims && tell('leave', event)}
          onPointerUp={(event) => tell('up', event)}
          onPointerCancel={(event) => tell('leave', event)}
          onDoubleClick={() => tool === 'move' && useView.setState({ viewports: wholePictures })}
        >
          <g pointerEvents={tool !== 'move' && tool !== 'hand' ? 'none' : undefined}>
            <Riding panes={panes} kind="source" ride={ride} id="source">
              {(pane) => (
                <>
                  <GroupMarks pane={pane} />
                  <Areas pane={pane} />
                  <Draft pane={pane} />
                  <LayerOutlines pane={pane} />
                  <BrushMarks pane={pane} />
                  <Regions pane={pane} />
                  <Boxes pane={pane} onAim={setAim} />
                  <Guides pane={pane} />
                </>
              )}
            </Riding>
            <Riding panes={panes} kind="held" ride={null} id="held">
              {(pane) => (
                <>
                  <Draft pane={pane} />
                  <LiesOver pane={pane} />
                </>
              )}
            </Riding>
            <Riding panes={panes} kind="steadied" ride={ride} id="steadied">
              {(pane) => (
                <>
                  <WanderMark pane={pane} />
                  <LiesOver pane={pane} />
                </>
              )}
            </Riding>
          </g>
        </svg>
        {panes.map((pane, i) => (
          <PaneLabel key={i} pane={pane} right={view === 'wipe' && i > 0} />
        ))}
        {view === 'wipe' && <WipeEdge width={size.width} wipe={wipe} />}
        {aim && <Loupe clipId={id} frame={usePlayhead.getState().shown} {...aim} stage={size} />}
        {failure && (
          <div className="absolute inset-0 flex bg-base-300">
            <ErrorNote message={`The picture cannot be shown: ${failure}`} />
          </div>
        )}
        <ToolHint />
        <ShownFrame />
      </div>
    </ActionContextMenu>
  );
}

/** What lies over any picture that is placed. */
function LiesOver({ pane }: { pane: PaneGeometry }) {
  return (
    <>
      <Regions pane={pane} />
      <LayerOutlines pane={pane} />
      <BrushMarks pane={pane} />
      <Guides pane={pane} />
    </>
  );
}

/** What lies over one of the panes, within it, where it is on the frame shown. */
function Riding({
  panes,
  kind,
  ride,
  id,
  children,
}: {
  panes: readonly PaneGeometry[];
  kind: PaneGeometry['kind'];
  ride: ReturnType<typeof rideOn>;
  id: string;
  children: (pane: PaneGeometry) => ReactNode;
}) {
  const frame = usePlayhead((s) => (ride ? s.shown : 0));
  const pane = panes.find((one) => one.kind === kind && !one.isOther);
  if (!pane) return null;
  return (
    <>
      <clipPath id={`${id}-pane`}>
        <rect x={pane.x} y={pane.y} width={pane.width} height={pane.height} />
      </clipPath>
      <g clipPath={`url(#${id}-pane)`}>{children(riding(pane, ride, frame))}</g>
    </>
  );
}

/** The size of the held picture. */
function useHeldSize(pixelAspect: number) {
  useHeld();
  useDressing((s) => s.held);
  const placing = heldPlacing();
  const [width, height] = [placing?.size.width, placing?.size.height];
  return useMemo(
    () => (width && height ? { width, height, pixelAspect } : undefined),
    [width, height, pixelAspect],
  );
}

/** How the pictures are moved so that the ridden track's point stands still; null where none is ridden. */
function useRide(): ReturnType<typeof rideOn> {
  const ride = useView((s) => s.ride);
  const samples = useDocument((s) => (ride ? s.samples.get(ride.trackId) : undefined));
  const result = useDocument((s) => (ride ? s.result : null));
  return useMemo(
    () => (ride && samples ? rideOn(samples, result, ride.from) : null),
    [ride, samples, result],
  );
}

function PaneLabel({ pane, right }: { pane: PaneGeometry; right: boolean }) {
  const flickers = useView((s) => s.flickers);
  const differs = useView((s) => s.view === 'difference');
  const isOnion = useView((s) => s.view === 'onion');
  const other = useCompared((s) => s.kept?.name ?? names.source);
  const isSteadied = pane.kind === 'steadied';
  const name =
    pane.isOther || (flickers && isSteadied)
      ? other
      : differs
        ? `Difference from ${other === names.source ? 'the source' : other}`
        : isOnion
          ? 'Steadied, five frames'
          : names[pane.kind];
  const place = right ? { right: 8 } : { left: pane.x + 8 };
  return (
    <span
      className="pointer-events-none absolute flex items-center rounded bg-base-300/85 px-2 py-0.5 text-[11px] font-medium tracking-wide whitespace-nowrap"
      style={{ ...place, top: pane.y + 8 }}
    >
      {name}
      {pane.kind === 'held' && <HeldChoice />}
    </span>
  );
}

/** For those who read the page by program: the frame that is drawn. */
function ShownFrame() {
  const shown = usePlayhead((s) => s.shown);
  const milliseconds = usePlayhead((s) => s.milliseconds);
  return (
    <span hidden data-testid="shown-frame" data-frame={shown} data-milliseconds={milliseconds.toFixed(2)} />
  );
}

/** The stage's background as the theme has it, for the painter. */
function backgroundColour(element: HTMLElement): [number, number, number] {
  const probe = document.createElement('canvas').getContext('2d', { willReadFrequently: true });
  if (!probe) return [0, 0, 0];
  probe.fillStyle = getComputedStyle(element).backgroundColor;
  probe.fillRect(0, 0, 1, 1);
  const [r, g, b] = probe.getImageData(0, 0, 1, 1).data;
  return [r / 255, g / 255, b / 255];
}

const placingOf = (result: SteadyResult | null): Placing | null =>
  result && { placements: result.placements, rows: result.rows };

/** How the output of a clip is made, as it is chosen. */
function outputLook(clip: ClipView, steady: SteadyView, result: SteadyResult | null): OutputLook {
  const view = viewOf(clip, steady.output);
  const [size, window] = [outputOf(view), windowOf(view)];
  const zoom = result?.zooms ? Math.min(...result.zooms) : steady.framing.zoom;
  const carried =
    steady.edge === 'fill' && result
      ? carriedBy(result.motion, [...useDocument.getState().samples.values()])
      : null;
  const interpolation = resamplingNames[steady.resampling];
  const { edge, unfilled } = steady;
  return { size, window, edge, unfilled, carried, interpolation, zoom };
}
