import type { Point } from '@lurn/core';

/** What the stage shows. */
export const stageViews = ['twin', 'source', 'steadied', 'wipe', 'difference', 'onion', 'held'] as const;
export type StageView = (typeof stageViews)[number];

export type PaneKind = 'source' | 'steadied' | 'held';

export interface Rectangle {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** A pane in CSS pixels with the way from clip pixels to CSS pixels, each direction by itself: p ↦ scale·p + shift. */
export interface PaneGeometry extends Rectangle {
  kind: PaneKind;
  /** A steadied picture by the settings that are compared with. */
  isOther?: boolean;
  /** The size of its picture, in its own pixels. */
  picture: { width: number; height: number };
  /** More than `scaleY` where the clip's pixels are wider than they are high. */
  scaleX: number;
  scaleY: number;
  shiftX: number;
  shiftY: number;
}

/** A clip's size in its own pixels, and a pixel's width over its height. */
export interface ShownSize {
  width: number;
  height: number;
  pixelAspect: number;
}

/** How the person looks: magnification over fitting, and the clip point in the middle, as a share of its size. */
export interface Viewport {
  zoom: number;
  centreX: number;
  centreY: number;
}

export const wholePicture: Viewport = { zoom: 1, centreX: 0.5, centreY: 0.5 };
export const wholePictures: Record<PaneKind, Viewport> = {
  source: wholePicture,
  steadied: wholePicture,
  held: wholePicture,
};

const gap = 10;

/**
 * Lays the panes out in a stage of the given size; `wipe` is the share of the width left to the source. The steadied picture may
 * have a size and shape of its own. A wipe shows the picture by other settings, of the size `other`, in place of the source where
 * there are any. The held picture, of the size `held`, has the source beside it.
 */
export function layOut(
  view: StageView,
  stage: { width: number; height: number },
  clip: ShownSize,
  viewports: Readonly<Record<PaneKind, Viewport>>,
  wipe: number,
  output: ShownSize = clip,
  other?: ShownSize,
  held: ShownSize = clip,
): PaneGeometry[] {
  const across = clip.width * clip.pixelAspect;
  const place = (
    kind: PaneGeometry['kind'],
    area: Rectangle,
    window: Rectangle,
    shown = kind === 'source' ? clip : kind === 'held' ? held : output,
  ): PaneGeometry => {
    const viewport = viewports[kind];
    const { width, height, pixelAspect } = shown;
    const scaleY = Math.min(window.width / (width * pixelAspect), window.height / height) * viewport.zoom;
    const scaleX = scaleY * pixelAspect;
    return {
      ...area,
      kind,
      picture: { width, height },
      scaleX,
      scaleY,
      shiftX: window.x + window.width / 2 - scaleX * width * viewport.centreX,
      shiftY: window.y + window.height / 2 - scaleY * height * viewport.centreY,
    };
  };
  const whole = { x: 0, y: 0, ...stage };
  if (view === 'twin' || view === 'held') {
    const [first, second] =
      view === 'held' ? (['held', 'source'] as const) : (['source', 'steadied'] as const);
    // Beside each other, or one above the other, whichever shows more.
    const beside = Math.min((stage.width - gap) / 2 / across, stage.height / clip.height);
    const above = Math.min(stage.width / across, (stage.height - gap) / 2 / clip.height);
    if (beside >= above) {
      const width = (stage.width - gap) / 2;
      const right = { x: width + gap, y: 0, width, height: stage.height };
      const left = { x: 0, y: 0, width, height: stage.height };
      return [place(first, left, left), place(second, right, right)];
    }
    const height = (stage.height - gap) / 2;
    const top = { x: 0, y: 0, width: stage.width, height };
    const bottom = { x: 0, y: height + gap, width: stage.width, height };
    return [place(first, top, top), place(second, bottom, bottom)];
  }
  if (view === 'wipe') {
    const edge = Math.round(stage.width * wipe);
    const left = { ...whole, width: edge };
    return [
      other ? { ...place('steadied', left, whole, other), isOther: true } : place('source', left, whole),
      place('steadied', { ...whole, x: edge, width: stage.width - edge }, whole),
    ];
  }
  return [place(view === 'source' ? 'source' : 'steadied', whole, whole)];
}

/** The height that a stage so wide needs for both pictures to fill it, beside each other. */
export const heightBeside = (width: number, clip: ShownSize): number =>
  (clip.height * (width - gap)) / 2 / (clip.width * clip.pixelAspect);

/** Where a stage point lies in a pane's picture, as shares of its size. */
const shareAt = (pane: PaneGeometry, { x, y }: Point) => ({
  u: (x - pane.shiftX) / pane.scaleX / pane.picture.width,
  v: (y - pane.shiftY) / pane.scaleY / pane.picture.height,
});

/** Magnifies about a stage point: what lies there in this pane, and the same place of the other, stays where it is. */
export function zoomAbout(
  viewports: Readonly<Record<PaneKind, Viewport>>,
  pane: PaneGeometry,
  at: Point,
  factor: number,
  { alone }: { alone: boolean },
): Record<PaneKind, Viewport> {
  const { u, v } = shareAt(pane, at);
  const zoomed = (viewport: Viewport): Viewport => {
    const zoom = Math.min(Math.max(viewport.zoom * factor, 0.25), 40);
    const change = viewport.zoom / zoom;
    return {
      zoom,
      centreX: u + (viewport.centreX - u) * change,
      centreY: v + (viewport.centreY - v) * change,
    };
  };
  return changed(viewports, pane.kind, alone, zoomed);
}

/** Has one pane's viewport changed, or those of source and steadied by the same: what is held lies otherwise. */
export const changed = (
  viewports: Readonly<Record<PaneKind, Viewport>>,
  kind: PaneKind,
  alone: boolean,
  change: (viewport: Viewport) => Viewport,
): Record<PaneKind, Viewport> =>
  alone || kind === 'held'
    ? { ...viewports, [kind]: change(viewports[kind]) }
    : { ...viewports, source: change(viewports.source), steadied: change(viewports.steadied) };

/** The pane that a stage point lies in. */
export const paneAt = (panes: readonly PaneGeometry[], { x, y }: Point): PaneGeometry | null =>
  panes.find((pane) => x >= pane.x && x < pane.x + pane.width && y >= pane.y && y < pane.y + pane.height) ??
  null;

/** From the stage to a pane's picture, clip pixels. */
export const toPicture = (pane: PaneGeometry, { x, y }: Point): Point => ({
  x: (x - pane.shiftX) / pane.scaleX,
  y: (y - pane.shiftY) / pane.scaleY,
});

/** From a pane's picture to the stage. */
export const toStage = (pane: PaneGeometry, { x, y }: Point): Point => ({
  x: pane.shiftX + pane.scaleX * x,
  y: pane.shiftY + pane.scaleY * y,
});

/** A pane whose picture is moved by so many of its own pixels. */
export const shiftedBy = (pane: PaneGeometry, { x, y }: Point): PaneGeometry => ({
  ...pane,
  shiftX: pane.shiftX + pane.scaleX * x,
  shiftY: pane.shiftY + pane.scaleY * y,
});
