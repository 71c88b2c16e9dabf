import { parsePixelAspect, startingBoxes } from '@lurn/core';
import {
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type PointerEvent,
  type WheelEvent,
} from 'react';
import { api } from '../api/client';
import { timesOf } from '../state/clip-times';
import { useDocument } from '../state/document';
import { type Area, type Tool, useView } from '../state/view';
import { usePlayhead } from '../state/playhead';
import { followAside, placeTrack } from '../state/track-edits';
import { ErrorNote } from '../ui/error-note';
import { trackColour } from '../ui/track-colour';
import { dragTo, startDrag, type Drag } from './drag';
import { fullFrame, Loupe } from './loupe';
import { Areas, upright } from './overlays/areas';
import type { Aim } from './overlays/box';
import { Boxes } from './overlays/boxes';
import { Paths } from './overlays/paths';
import { WipeEdge } from './overlays/wipe-edge';
import { layOut, wholePicture, zoomAbout, type PaneGeometry } from './panes';
import type { StageNews, StageOrder } from './stage-messages';
import { useSelection } from '../state/selection';

const noClip = { id: '', width: 1, height: 1, frames: 1, frameRate: '25/1', times: null, pixelAspect: '1:1' };

/** Milliseconds. */
const restBeforeWarming = 400;

const names = { source: 'Source', steadied: 'Steadied' };

/** The pictures: source and steadied, drawn by the stage's worker, with boxes and handles over them. */
export function Stage() {
  const clip = useDocument((s) => s.clip);
  const view = useView((s) => s.view);
  const viewport = useView((s) => s.viewport);
  const wipe = useView((s) => s.wipe);
  const tool = useView((s) => s.tool);
  const tracks = useDocument((s) => s.tracks.length);
  const stage = useRef<HTMLDivElement>(null);
  const worker = useRef<Worker | null>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [failure, setFailure] = useState<string | null>(null);
  const [aimed, setAimed] = useState<{ aim: Aim; tool: Tool } | null>(null);
  // A tool put down takes its loupe with it.
  const aim = aimed?.tool === tool ? aimed.aim : null;
  const setAim = (next: Aim | null): void => setAimed(next && { aim: next, tool });
  const [panning, setPanning] = useState<Drag | null>(null);
  const [area, setArea] = useState<Area | null>(null);
  const { id, width, height, frames, frameRate, times, pixelAspect: aspect } = clip ?? noClip;
  const picture = useMemo(
    () => ({ width, height, pixelAspect: parsePixelAspect(aspect) }),
    [width, height, aspect],
  );
  const frameTimes = useMemo(() => timesOf({ frames, frameRate, times }), [frames, frameRate, times]);
  const panes = useMemo(
    () => (size.width > 0 ? layOut(view, size, picture, viewport, wipe) : []),
    [view, size, picture, viewport, wipe],
  );

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
      url: new URL(`/api/clips/${id}/proxy`, location.href).href,
      clip: picture,
      times: frameTimes,
    };
    drawing.postMessage(order, [offscreen]);
    const send = (message: StageOrder): void => drawing.postMessage(message);
    send({ type: 'show', frame: usePlayhead.getState().frame });
    const stopPlayhead = usePlayhead.subscribe((now, before) => {
      if (now.playing !== before.playing) {
        const range = useDocument.getState().steady?.range ?? { first: 0, last: 0 };
        send(now.playing ? { type: 'play', from: now.frame, ...range } : { type: 'pause' });
      }
      if (!now.playing && (now.frame !== before.frame || before.playing))
        send({ type: 'show', frame: now.frame });
    });
    const sendPlacements = (): void =>
      send({ type: 'placements', placements: useDocument.getState().result?.placements ?? null });
    const stopDocument = useDocument.subscribe((now, before) => {
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
      stopDocument();
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
  }, [panes, size, id]);

  if (!clip) return null;

  const at = (event: { clientX: number; clientY: number }): { x: number; y: number } => {
    const box = (stage.current as HTMLDivElement).getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const paneAt = (p: { x: number; y: number }): PaneGeometry | undefined =>
    panes.find(
      (pane) => p.x >= pane.x && p.x < pane.x + pane.width && p.y >= pane.y && p.y < pane.y + pane.height,
    );
  const clipPoint = (pane: PaneGeometry, p: { x: number; y: number }) => ({
    x: (p.x - pane.shiftX) / pane.scaleX,
    y: (p.y - pane.shiftY) / pane.scaleY,
  });

  const onWheel = (event: WheelEvent): void => {
    const p = at(event);
    const pane = paneAt(p);
    if (pane)
      useView.setState({
        viewport: zoomAbout(viewport, pane, picture, p.x, p.y, Math.exp(-event.deltaY / 400)),
      });
  };
  const aiming = tool === 'place' || tool === 'aside';
  const drawing = tool === 'within' || tool === 'without';
  const aimAt = (event: PointerEvent): void => {
    const p = at(event);
    const pane = paneAt(p);
    if (!aiming || pane?.kind !== 'source') return setAim(null);
    setAim({
      ...clipPoint(pane, p),
      pointer: p,
      box: startingBoxes({ width, height }).template,
      colour: trackColour(tracks),
    });
  };
  const source = panes.find((p) => p.kind === 'source');
  const onPointerDown = (event: PointerEvent): void => {
    const p = at(event);
    const pane = paneAt(p);
    if ((aiming || drawing) && event.button === 0) {
      if (pane?.kind !== 'source') return;
      const { x, y } = clipPoint(pane, p);
      setAim(null);
      if (drawing) {
        event.currentTarget.setPointerCapture(event.pointerId);
        setArea({ kind: tool, left: x, top: y, right: x, bottom: y });
      } else if (x >= 0 && y >= 0 && x <= width && y <= height) {
        const { shown } = usePlayhead.getState();
        void (tool === 'aside' ? followAside(x, y, shown) : placeTrack(x, y, shown));
      }
      return;
    }
    event.currentTarget.setPointerCapture(event.pointerId);
    setPanning(startDrag({ x: viewport.centreX, y: viewport.centreY }, p));
  };
  const onPointerMove = (event: PointerEvent): void => {
    if (aiming) return aimAt(event);
    if (area && source) {
      const { x, y } = clipPoint(source, at(event));
      return setArea({ ...area, right: x, bottom: y });
    }
    if (!panning) return;
    const { scaleX, scaleY } = panes[0];
    const { at: centre } = dragTo(panning, at(event), { x: -scaleX * width, y: -scaleY * height });
    useView.setState({ viewport: { ...viewport, centreX: centre.x, centreY: centre.y } });
  };
  const endArea = (): void => {
    if (area) {
      const fresh = upright(area);
      if (fresh.right - fresh.left > 8 && fresh.bottom - fresh.top > 8)
        useView.setState(({ areas }) => ({ areas: [...areas, fresh], tool: 'move' }));
    }
    setArea(null);
    setPanning(null);
  };

  return (
    <div className="relative h-full w-full overflow-hidden bg-base-300" ref={stage} data-testid="stage">
      {source && (
        <svg
          className="pointer-events-none absolute h-full will-change-transform"
          style={{ left: 0, top: 0, width: source.x + source.width }}
        >
          <Paths pane={source} />
        </svg>
      )}
      <svg
        className={`absolute inset-0 h-full w-full touch-none select-none ${tool !== 'move' ? 'cursor-crosshair' : panning ? 'cursor-grabbing' : 'cursor-grab'}`}
        onWheel={onWheel}
        onPointerDown={onPointerDown}
        onPointerMove={onPointerMove}
        onPointerEnter={() =>
          aiming && void fullFrame(id, usePlayhead.getState().shown).catch(() => undefined)
        }
        onPointerLeave={() => aiming && setAim(null)}
        onPointerUp={endArea}
        onPointerCancel={endArea}
        onDoubleClick={() => useView.setState({ viewport: wholePicture })}
      >
        {source && (
          <>
            <clipPath id="source-pane">
              <rect x={source.x} y={source.y} width={source.width} height={source.height} />
            </clipPath>
            <g clipPath="url(#source-pane)" pointerEvents={tool !== 'move' ? 'none' : undefined}>
              <Areas pane={source} drawn={area} />
              <Boxes pane={source} onAim={setAim} />
            </g>
          </>
        )}
      </svg>
      {panes.map((pane) => (
        <PaneLabel key={pane.kind} pane={pane} right={view === 'wipe' && pane.kind === 'steadied'} />
      ))}
      {view === 'wipe' && <WipeEdge width={size.width} wipe={wipe} />}
      {aim && <Loupe clipId={id} frame={usePlayhead.getState().shown} {...aim} stage={size} />}
      {failure && (
        <div className="absolute inset-0 flex bg-base-300">
          <ErrorNote message={`The picture cannot be shown: ${failure}`} />
        </div>
      )}
      <ShownFrame />
    </div>
  );
}

function PaneLabel({ pane, right }: { pane: PaneGeometry; right: boolean }) {
  const place = right ? { right: 8 } : { left: pane.x + 8 };
  return (
    <span
      className="pointer-events-none absolute rounded bg-base-300/80 px-2 py-0.5 text-[11px] font-medium tracking-wide"
      style={{ ...place, top: pane.y + 8 }}
    >
      {names[pane.kind]}
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
