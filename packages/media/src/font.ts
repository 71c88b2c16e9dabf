import { randomUUID } from 'node:crypto';
import { open } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { basename } from 'node:path';
import { GlobalFonts } from '@napi-rs/canvas';
import { MediaError } from './media-error.js';

/** How the files begin: TrueType, OpenType, collections of them, and both as they go over the web. */
const beginnings = ['\0\u0001\0\0', 'true', 'OTTO', 'ttcf', 'wOFF', 'wOF2'];

/** Whether a file says that it is a font. */
export async function isFont(path: string): Promise<boolean> {
  const file = await open(path).catch(() => null);
  if (!file) return false;
  try {
    const { buffer } = await file.read(Buffer.alloc(4), 0, 4, 0);
    return beginnings.includes(buffer.toString('latin1'));
  } finally {
    await file.close();
  }
}

const families = new Map<string, string>();

/** The name that a font's file goes by in drawing. Throws a MediaError where it is none. */
export function familyOf(path: string, name = basename(path)): string {
  const known = families.get(path);
  if (known) return known;
  // Fonts are the process's: a name of its own for each.
  const family = `Lurn ${randomUUID()}`;
  // Nothing that is registered can be told from a file that is none but by this.
  const before = GlobalFonts.families.length;
  const isTaken = GlobalFonts.registerFromPath(path, family);
  if (!isTaken || GlobalFonts.families.length === before)
    throw new MediaError(`"${name}" is no font that can be read: TrueType, OpenType or WOFF.`);
  families.set(path, family);
  return family;
}

/** The font that ships. */
export const shippedFont = (): string =>
  createRequire(import.meta.url).resolve('@fontsource-variable/inter/files/inter-latin-wght-normal.woff2');
