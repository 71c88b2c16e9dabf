import type { ExportRequest } from '@lurn/contract';
import type { Codec } from '@lurn/core';
import { create } from 'zustand';

/** What a movie is written as, by what it is for. */
export const exportPresets = [
  { id: 'share', name: 'To share: H.264 MP4', request: { codec: 'h264', container: 'mp4' } },
  { id: 'small', name: 'Smaller: H.265 MP4', request: { codec: 'h265', container: 'mp4' } },
  { id: 'edit', name: 'To go on editing: ProRes 422', request: { codec: 'prores', container: 'mov' } },
  { id: 'alpha', name: 'With transparency: ProRes 4444', request: { codec: 'prores4444', container: 'mov' } },
  { id: 'web', name: 'For the web: VP9 WebM', request: { codec: 'vp9', container: 'webm' } },
  { id: 'av1', name: 'For the web: AV1 WebM', request: { codec: 'av1', container: 'webm' } },
  { id: 'lossless', name: 'Without loss: FFV1 MKV', request: { codec: 'ffv1', container: 'mkv' } },
  { id: 'pictures', name: 'Single pictures: PNG', request: { codec: 'png', container: 'png' } },
] as const satisfies { id: string; name: string; request: ExportRequest }[];

/** Bits a pixel that a codec comes to, about. */
const roughBits: Record<Codec, number> = {
  h264: 0.25,
  h265: 0.15,
  prores: 3,
  prores4444: 4.5,
  vp9: 0.15,
  av1: 0.12,
  ffv1: 6,
  png: 12,
};

/** What the next movie is written as; a project's last choice is the next clip's first. */
export const useExporting = create<{ request: ExportRequest }>(() => ({ request: exportPresets[0].request }));

/** Bytes that a movie comes to, about. */
export function roughBytes({ codec = 'h264' }: ExportRequest, pixels: number, frames: number): number {
  return (roughBits[codec] * pixels * frames) / 8;
}
