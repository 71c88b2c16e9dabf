import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { copyFile, open, rm, writeFile } from 'node:fs/promises';
import { Injectable, UnprocessableEntityException } from '@nestjs/common';
import type { AssetView } from '@lurn/contract';
import { textName, type Layer, type LayerPicture, type TextContent } from '@lurn/core';
import { drawText, familyOf, isFont, readLayerPicture, stillAs } from '@lurn/media';
import { ClipFiles } from '../clips/clip-files.js';

async function isTiff(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const { buffer } = await file.read(Buffer.alloc(2), 0, 2, 0);
    return ['II', 'MM'].includes(buffer.toString('latin1'));
  } finally {
    await file.close();
  }
}

const isId = (id: string): boolean => /^[0-9a-f-]{36}$/.test(id);

/** Pictures that layers show, and fonts of texts: files by id, kept as long as the data folder. */
@Injectable()
export class AssetsService {
  constructor(private readonly files: ClipFiles) {}

  /** Takes a picture in; it is read once, so that what cannot be shown is refused. */
  async bring(path: string, name: string): Promise<AssetView> {
    const id = randomUUID();
    if (await isFont(path)) {
      await copyFile(path, this.files.asset(id));
      try {
        familyOf(this.files.asset(id), name);
      } catch (error) {
        await rm(this.files.asset(id));
        throw error;
      }
      return { id, name, kind: 'font', width: 0, height: 0 };
    }
    const { width, height } = await readLayerPicture(path, name);
    // Browsers show no TIFF.
    if (await isTiff(path)) await writeFile(this.files.asset(id), await stillAs(path, 'png'));
    else await copyFile(path, this.files.asset(id));
    return { id, name, kind: 'picture', width, height };
  }

  /** Where a picture lies; null for what is no id. */
  path = (id: string): string | null => (isId(id) ? this.files.asset(id) : null);

  /** The file of a text's font; nothing for the one that ships. */
  fontOf({ font }: TextContent, name: string): string | undefined {
    if (!font) return undefined;
    const path = this.path(font);
    if (path && existsSync(path)) return path;
    throw new UnprocessableEntityException(
      `The font of layer "${name}" is gone: bring it in again, or choose another.`,
    );
  }

  /** The pictures that layers show, decoded. */
  async picturesOf(layers: readonly Layer[]): Promise<Map<string, LayerPicture>> {
    const pictures = new Map<string, LayerPicture>();
    for (const { name, hidden, content } of layers) {
      if (hidden) continue;
      if (content.kind === 'text')
        pictures.set(textName(content), drawText(content, this.fontOf(content, name)));
      if (content.kind !== 'picture' || pictures.has(content.asset)) continue;
      const path = this.path(content.asset);
      const picture = path && (await readLayerPicture(path, name).catch(() => null));
      if (!picture)
        throw new UnprocessableEntityException(
          `The picture of layer "${name}" is gone: bring it in again, or hide the layer.`,
        );
      pictures.set(content.asset, picture);
    }
    return pictures;
  }
}
