import type { ExportPace, ExportRequest } from '@lurn/contract';
import { codecKinds, type Codec } from '@lurn/core';
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

/** What a codec comes to, about, before anything has been exported on a machine. */
const roughPaces: Record<Codec, ExportPace> = {
  h264: { bitsPerPixel: 0.25, pixelsPerSecond: 2.5e7 },
  h265: { bitsPerPixel: 0.15, pixelsPerSecond: 1.2e7 },
  prores: { bitsPerPixel: 3, pixelsPerSecond: 2.5e7 },
  prores4444: { bitsPerPixel: 4.5, pixelsPerSecond: 1.5e7 },
  vp9: { bitsPerPixel: 0.15, pixelsPerSecond: 8e6 },
  av1: { bitsPerPixel: 0.12, pixelsPerSecond: 1.5e7 },
  ffv1: { bitsPerPixel: 6, pixelsPerSecond: 3e7 },
  png: { bitsPerPixel: 12, pixelsPerSecond: 1e7 },
};

/** What the next movie is written as; a project's last choice is the next clip's first. */
export const useExporting = create<{ request: ExportRequest }>(() => ({ request: exportPresets[0].request }));

/** The bytes and seconds that so many pixels come to, about: as the last export of the codec did. */
export function estimate(
  { codec = 'h264' }: ExportRequest,
  pixels: number,
  paces: Partial<Record<string, ExportPace>>,
): { bytes: number; seconds: number } {
  const { bitsPerPixel, pixelsPerSecond } = paces[codec] ?? roughPaces[codec];
  return { bytes: (bitsPerPixel * pixels) / 8, seconds: pixels / pixelsPerSecond };
}

/** What is taken over from what was asked for last: not what belongs to one clip. */
export function lastChoice({ codec = 'h264', container, bits, comparison }: ExportRequest): ExportRequest {
  return { codec, container: container ?? codecKinds[codec].containers[0], bits, comparison };
}
