import type { ExportRequest } from '@lurn/contract';
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

interface Codec {
  name: string;
  containers: readonly NonNullable<ExportRequest['container']>[];
  bits: readonly NonNullable<ExportRequest['bits']>[];
  /** Bits a pixel that it comes to, about. */
  size: number;
}

export const codecFacts: Record<NonNullable<ExportRequest['codec']>, Codec> = {
  h264: { name: 'H.264', containers: ['mp4', 'mov', 'mkv'], bits: [8, 10], size: 0.25 },
  h265: { name: 'H.265', containers: ['mp4', 'mov', 'mkv'], bits: [8, 10, 12], size: 0.15 },
  prores: { name: 'ProRes 422', containers: ['mov', 'mkv'], bits: [10], size: 3 },
  prores4444: { name: 'ProRes 4444', containers: ['mov', 'mkv'], bits: [10], size: 4.5 },
  vp9: { name: 'VP9', containers: ['webm', 'mkv'], bits: [8, 10, 12], size: 0.15 },
  av1: { name: 'AV1', containers: ['webm', 'mp4', 'mkv'], bits: [8, 10], size: 0.12 },
  ffv1: { name: 'FFV1', containers: ['mkv', 'mov'], bits: [8, 10, 12], size: 6 },
  png: { name: 'PNG', containers: ['png'], bits: [8, 16], size: 12 },
};

/** What the next movie is written as; a project's last choice is the next clip's first. */
export const useExporting = create<{ request: ExportRequest }>(() => ({ request: exportPresets[0].request }));

/** Bytes that a movie comes to, about. */
export function roughBytes({ codec = 'h264' }: ExportRequest, pixels: number, frames: number): number {
  return (codecFacts[codec].size * pixels * frames) / 8;
}
