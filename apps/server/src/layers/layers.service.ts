import { randomUUID } from 'node:crypto';
import { Injectable, NotFoundException, UnprocessableEntityException } from '@nestjs/common';
import type { ClipChange } from '@lurn/contract';
import type { Layer } from '@lurn/core';
import { ClipsService } from '../clips/clips.service.js';
import type { Change } from '../records/change.js';
import { EditsService } from '../records/edits.service.js';
import { RecordsService } from '../records/records.service.js';
import { readLayer } from '@lurn/model';
import type { LayerRecord } from './layer-record.js';

/** What is dressed onto a clip: each change is an edit. */
@Injectable()
export class LayersService {
  constructor(
    private readonly clips: ClipsService,
    private readonly records: RecordsService,
    private readonly edits: EditsService,
  ) {}

  /** Puts a layer on top of the others. */
  add(clipId: string, given: object): Promise<ClipChange> {
    return this.edits.inTurn(clipId, async () => {
      const { row } = await this.clips.ready(clipId);
      const layer = readLayer(given, row.frames);
      const others = await this.clips.layersOf(clipId);
      const position = others.length > 0 ? others[0].position - 1 : 0;
      const after = { ...layer, id: randomUUID(), clipId, position, locked: false, solo: false };
      return this.edits.commit(clipId, 'Add layer', [{ kind: 'layer', id: after.id, before: null, after }]);
    });
  }

  /** Puts another layer in one's place; what is not said of where it lies in the list stays. */
  change(id: string, given: object): Promise<ClipChange> {
    return this.with(id, async (before) => {
      const { row } = await this.clips.ready(before.clipId);
      const { locked = before.locked, solo = before.solo } = given as Partial<LayerRecord>;
      if (before.locked && locked !== false)
        throw new UnprocessableEntityException(`"${before.name}" is locked; unlock it first.`);
      const { position, clipId } = before;
      const after = {
        ...readLayer(given, row.frames),
        id,
        clipId,
        position,
        locked: locked === true,
        solo: solo === true,
      };
      return ['Change layer', [{ kind: 'layer', id, before, after }]];
    });
  }

  remove(id: string): Promise<ClipChange> {
    return this.with(id, async (before) => {
      if (before.locked)
        throw new UnprocessableEntityException(`"${before.name}" is locked; unlock it first.`);
      const others = await this.records.lettingGo(before.clipId, [id]);
      return ['Delete layer', [{ kind: 'layer', id, before, after: null }, ...others]];
    });
  }

  /** Gives a layer another place in the list; those that it passes are numbered anew. */
  move(id: string, to: number): Promise<ClipChange> {
    return this.with(id, async (moved) => {
      const others = (await this.clips.layersOf(moved.clipId)).filter((one) => one.id !== id);
      const order = [...others.slice(0, to), moved, ...others.slice(to)];
      const changes = order.flatMap((before, position): Change[] =>
        before.position === position
          ? []
          : [{ kind: 'layer', id: before.id, before, after: { ...before, position } }],
      );
      return ['Order layers', changes];
    });
  }

  /** The same layer once more, in its own clip or another. Tracks of another clip do not carry it there. */
  async copy(id: string, clipId: string): Promise<ClipChange> {
    const layer = await this.find(id);
    const { row } = await this.clips.ready(clipId);
    const isOwn = clipId === layer.clipId;
    const last = Math.min(layer.last, row.frames - 1);
    const copy: Layer = {
      ...layer,
      ...(isOwn ? {} : elsewhere(layer, clipId)),
      last,
      first: Math.min(layer.first, last),
      frame: Math.min(layer.frame, row.frames - 1),
      name: isOwn ? `${layer.name}, copy`.slice(0, 80) : layer.name,
    };
    return this.add(clipId, copy);
  }

  private async find(id: string): Promise<LayerRecord> {
    const [record] = await this.records.find([id]);
    if (record?.kind !== 'layer') throw new NotFoundException('There is no such layer.');
    return record.view as LayerRecord;
  }

  private async with(
    id: string,
    edit: (before: LayerRecord) => Promise<[label: string, changes: Change[]]>,
  ): Promise<ClipChange> {
    const { clipId } = await this.find(id);
    return this.edits.inTurn(clipId, async () => {
      const [label, changes] = await edit(await this.find(id));
      return this.edits.commit(clipId, label, changes);
    });
  }
}

/** What of a layer is another in another clip: nothing carries it there, nothing holds it out; clips that it shows are the same. */
function elsewhere({ carrier, shape, content, clipId: from }: LayerRecord, to: string): Partial<Layer> {
  const still = { ...carrier, kind: 'still' as const, trackIds: [] };
  const shown = content.kind === 'clip' ? content.clip || from : '';
  return {
    carrier: still,
    shape: { ...shape, carrier: shape.carrier && still },
    matte: null,
    content: content.kind === 'clip' ? { ...content, clip: shown === to ? '' : shown } : content,
  };
}
