import type { RegionView } from '@lurn/contract';
import {
  cornersFromCentre,
  pageLength,
  type FeaturePages,
  type HeldScene,
  type SceneMotions,
  type SteadyClip,
  type SteadyResult,
  type SteadySettings,
  type TradePoint,
} from '@lurn/core';
import type { TrackSamples } from '../state/track-samples';
import type { SolvingNews, SolvingOrder, SolvingPage } from './solving-order';

/** Solving what will soon be out of date takes no more than a fifth of a core from whoever finds more. */
const restAfter = 4;

/** All that a result follows from. What is the same object is the same. */
export interface Problem {
  tracks: readonly { id: string; samples: TrackSamples; region: RegionView | null }[];
  clip: SteadyClip;
  settings: SteadySettings;
  scene: (HeldScene & { features: FeaturePages | null }) | null;
}

/** Whether two problems have the same solution. */
export const isSame = (a: Problem | null, b: Problem): boolean =>
  a !== null &&
  a.settings === b.settings &&
  a.scene === b.scene &&
  a.clip.times === b.clip.times &&
  a.tracks.length === b.tracks.length &&
  a.tracks.every(({ id, samples, region }, i) => {
    const other = b.tracks[i];
    return id === other.id && samples === other.samples && region === other.region;
  });

/** What a worker that has solved `before` must be told to solve `next`: pages of samples that it has not got. */
export function orderFor(before: Problem | null, next: Problem): SolvingOrder {
  const known = new Map(before?.tracks.map(({ id, samples }) => [id, samples]));
  return {
    tracks: next.tracks.map(({ id, samples, region }) => {
      const had = known.get(id);
      const isKnown = had?.frames === samples.frames;
      return {
        id,
        fresh: !isKnown,
        corners: region && cornersFromCentre(region),
        pages: samples.pages.flatMap((page, number) =>
          isKnown && had.pages[number] === page
            ? []
            : [{ from: number * pageLength, samples: page && columnsOf(page) }],
        ),
      };
    }),
    clip: next.clip,
    settings: next.settings,
    scene: next.scene && {
      shots: next.scene.shots,
      choices: next.scene.choices,
      pages: before?.scene?.motions === next.scene.motions ? null : pagesOf(next.scene.motions),
      features: before?.scene?.features === next.scene.features ? null : (next.scene.features?.pages ?? null),
    },
  };
}

const pagesOf = (motions: SceneMotions): [number, Uint8Array][] =>
  motions.pages.map((page) => [page, motions.packPage(page)]);

const columnsOf = (
  page: NonNullable<TrackSamples['pages'][number]>,
): NonNullable<SolvingPage['samples']> => ({
  x: page.x,
  y: page.y,
  confidence: page.confidence,
  rotation: page.rotation,
  scale: page.scale,
  stretch: page.stretch,
  shear: page.shear,
  tiltX: page.tiltX,
  tiltY: page.tiltY,
  state: page.state,
});

/** Solves in a thread of its own, which keeps the samples; of problems that pile up only the latest is solved. */
export class Solver {
  private readonly worker = new Worker(new URL('./solving-worker.ts', import.meta.url), { type: 'module' });
  /** What the worker was told last, and what it is to be told next. */
  private told: Problem | null = null;
  private waiting: Problem | null = null;
  private busy = false;
  private hurry = false;
  private began = 0;
  private restUntil = 0;
  private rest: ReturnType<typeof setTimeout> | undefined;
  private idle: (() => void)[] = [];

  constructor(
    onResult: (result: SteadyResult) => void,
    /** The motion cannot be undone on a frame: there is no result. */
    onCollapsed: (frame: number) => void,
    onTrade: (trade: TradePoint[]) => void,
    onMeasured: (measured: Extract<SolvingNews, { shake: unknown }>) => void,
  ) {
    this.worker.onmessage = ({ data }: MessageEvent<SolvingNews>) => {
      if ('trade' in data) return onTrade(data.trade);
      if ('shake' in data) return onMeasured(data);
      this.busy = false;
      const now = performance.now();
      this.restUntil = now + restAfter * (now - this.began);
      if ('collapsedOn' in data) onCollapsed(data.collapsedOn);
      else onResult(data.result);
      this.send();
      if (!this.busy && !this.waiting) this.idle.splice(0).forEach((tell) => tell());
    };
  }

  /** A problem in no hurry is one that the next will soon make out of date. One that is solved already is passed over. */
  solve(problem: Problem, { hurry }: { hurry: boolean }): void {
    if (isSame(this.waiting ?? this.told, problem)) return;
    this.waiting = problem;
    this.hurry ||= hurry;
    this.send();
  }

  /** Another clip: what was solved is not its solution. */
  forget(): void {
    this.told = null;
    this.waiting = null;
  }

  /** Resolves when everything ordered so far has been solved and told. */
  settled(): Promise<void> {
    this.hurry = true;
    this.send();
    return this.busy ? new Promise((resolve) => this.idle.push(resolve)) : Promise.resolve();
  }

  private send(): void {
    if (this.busy || !this.waiting) return;
    clearTimeout(this.rest);
    const rest = this.restUntil - performance.now();
    if (rest > 0 && !this.hurry) {
      this.rest = setTimeout(() => this.send(), rest);
      return;
    }
    this.busy = true;
    this.hurry = false;
    this.began = performance.now();
    this.worker.postMessage(orderFor(this.told, this.waiting));
    this.told = this.waiting;
    this.waiting = null;
  }
}
