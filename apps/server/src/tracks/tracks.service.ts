import { randomUUID } from 'node:crypto';
import {
  ConflictException,
  Inject,
  Injectable,
  NotFoundException,
  UnprocessableEntityException,
} from '@nestjs/common';
import type { ClipChange, NewTrackRequest, PlaceRequest, TrackPatch, TrackView } from '@lurn/contract';
import { defaultPointOptions, pageLength, SampleState, Samples } from '@lurn/core';
import { eq } from 'drizzle-orm';
import { ClipsService } from '../clips/clips.service.js';
import { DATABASE, type Database } from '../database/database.js';
import { tracks } from '../database/schema.js';
import type { Change } from '../edits/change.js';
import { EditsService } from '../edits/edits.service.js';

export const packed = (samples: Samples, page: number): string | null => {
  const bytes = samples.packPage(page);
  return bytes && Buffer.from(bytes).toString('base64');
};

@Injectable()
export class TracksService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly clips: ClipsService,
    private readonly edits: EditsService,
  ) {}

  async find(id: string): Promise<TrackView> {
    const [row] = await this.database.select().from(tracks).where(eq(tracks.id, id));
    if (!row) throw new NotFoundException('There is no such track.');
    return row.view;
  }

  async add(clipId: string, request: NewTrackRequest): Promise<ClipChange> {
    return this.edits.inTurn(clipId, async () => {
      const { row } = await this.clips.ready(clipId);
      requireFrame(request.frame, row.frames);
      const others = await this.clips.tracksOf(clipId);
      const position = 1 + Math.max(-1, ...others.map((t) => t.position));
      const { template, search } = boxes({ ...defaultPointOptions, ...request });
      const view: TrackView = {
        ...{
          id: randomUUID(),
          clipId,
          name: freeName(others),
          kind: 'point',
          position,
          hidden: false,
          locked: false,
          used: true,
        },
        ...{ template, search },
      };
      const samples = new Samples(row.frames);
      placeKey(samples, request.frame, request);
      const page = Math.floor(request.frame / pageLength);
      const changes: Change[] = [
        { kind: 'track', id: view.id, before: null, after: view },
        { kind: 'page', trackId: view.id, page, before: null, after: packed(samples, page) },
      ];
      // The first track's frame is the natural one to leave alone.
      if (others.length === 0 && row.steady.referenceFrame !== request.frame) {
        changes.push({
          kind: 'steady',
          before: row.steady,
          after: { ...row.steady, referenceFrame: request.frame },
        });
      }
      return this.edits.commit(clipId, 'Place track', changes);
    });
  }

  async change(id: string, patch: TrackPatch): Promise<ClipChange> {
    const { clipId } = await this.find(id);
    return this.edits.inTurn(clipId, async () => {
      const before = await this.find(id);
      if ((patch.template || patch.search) && patch.locked !== false) this.requireOpen(before);
      const after = { ...before, ...patch, ...boxes({ ...before, ...patch }) };
      const label =
        patch.name !== undefined
          ? 'Rename track'
          : patch.template || patch.search
            ? 'Resize box'
            : 'Track options';
      return this.edits.commit(clipId, label, [{ kind: 'track', id, before, after }]);
    });
  }

  async remove(id: string): Promise<ClipChange> {
    const { clipId } = await this.find(id);
    return this.edits.inTurn(clipId, async () => {
      const before = await this.find(id);
      this.edits.requireFree([id]);
      const { row } = await this.clips.ready(clipId);
      const samples = await this.clips.samples(id, row.frames);
      const changes: Change[] = [];
      for (let page = 0; page < samples.pages; page++) {
        const bytes = packed(samples, page);
        if (bytes !== null) changes.push({ kind: 'page', trackId: id, page, before: bytes, after: null });
      }
      return this.edits.commit(clipId, `Delete ${before.name}`, [
        ...changes,
        { kind: 'track', id, before, after: null },
      ]);
    });
  }

  /** Puts the track where the person says, on one frame; a hand-placed key outlives tracking. */
  setKey(id: string, frame: number, place: PlaceRequest): Promise<ClipChange> {
    return this.editSample(id, frame, 'Place key', (samples) => placeKey(samples, frame, place));
  }

  /** Takes the sample of one frame away, key or not. */
  clearSample(id: string, frame: number): Promise<ClipChange> {
    return this.editSample(id, frame, 'Remove key', (samples) => {
      if (samples.keys().length === 1 && samples.state[frame] === SampleState.placed) {
        throw new ConflictException('A track keeps at least one hand-placed key; delete the track instead.');
      }
      samples.clear(frame);
    });
  }

  private async editSample(
    id: string,
    frame: number,
    label: string,
    edit: (samples: Samples) => void,
  ): Promise<ClipChange> {
    const { clipId } = await this.find(id);
    return this.edits.inTurn(clipId, async () => {
      this.requireOpen(await this.find(id));
      this.edits.requireFree([id]);
      const { row } = await this.clips.ready(clipId);
      requireFrame(frame, row.frames);
      const samples = await this.clips.samples(id, row.frames);
      const page = Math.floor(frame / pageLength);
      const before = packed(samples, page);
      edit(samples);
      return this.edits.commit(clipId, label, [
        { kind: 'page', trackId: id, page, before, after: packed(samples, page) },
      ]);
    });
  }

  private requireOpen(track: TrackView): void {
    if (track.locked) throw new ConflictException(`"${track.name}" is locked; unlock it first.`);
  }
}

function placeKey(samples: Samples, frame: number, { x, y }: PlaceRequest): void {
  const here = samples.get(frame);
  samples.set(frame, {
    x,
    y,
    confidence: 1,
    rotation: here?.rotation ?? 0,
    scale: here?.scale ?? 1,
    state: SampleState.placed,
  });
}

/** The search box always holds the template box. */
function boxes({
  template,
  search,
}: Pick<TrackView, 'template' | 'search'>): Pick<TrackView, 'template' | 'search'> {
  return {
    template: { ...template },
    search: {
      width: Math.max(search.width, template.width + 8),
      height: Math.max(search.height, template.height + 8),
    },
  };
}

function freeName(others: readonly TrackView[]): string {
  const taken = new Set(others.map((t) => t.name));
  let n = 1;
  while (taken.has(`Point ${n}`)) n++;
  return `Point ${n}`;
}

function requireFrame(frame: number, frames: number): void {
  if (frame < 0 || frame >= frames)
    throw new UnprocessableEntityException(
      `Frame ${frame} is outside the clip; its frames are 0 to ${frames - 1}.`,
    );
}
