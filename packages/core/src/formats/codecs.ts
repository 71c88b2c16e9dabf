import type { Subsampling } from '../render/yuv-picture.js';

export const codecs = ['h264', 'h265', 'prores', 'prores4444', 'vp9', 'av1', 'ffv1', 'png'] as const;
export type Codec = (typeof codecs)[number];

/** Bits a level of what is written. */
export const bitChoices = [8, 10, 12, 16] as const;
export type WrittenBits = (typeof bitChoices)[number];

export const containers = ['mp4', 'mov', 'webm', 'mkv', 'png'] as const;
export type Container = (typeof containers)[number];

export interface CodecKind {
  name: string;
  /** The first is the usual one. */
  containers: readonly Container[];
  bits: readonly WrittenBits[];
  subsamplings: readonly Subsampling[];
  /** Bits at which it carries a fourth plane. */
  alpha: readonly WrittenBits[];
}

const all: readonly Subsampling[] = ['420', '422', '444'];

export const codecKinds: Record<Codec, CodecKind> = {
  h264: { name: 'H.264', containers: ['mp4', 'mov', 'mkv'], bits: [8, 10], subsamplings: all, alpha: [] },
  h265: { name: 'H.265', containers: ['mp4', 'mov', 'mkv'], bits: [8, 10, 12], subsamplings: all, alpha: [] },
  prores: { name: 'ProRes 422', containers: ['mov', 'mkv'], bits: [10], subsamplings: ['422'], alpha: [] },
  prores4444: {
    name: 'ProRes 4444',
    containers: ['mov', 'mkv'],
    bits: [10],
    subsamplings: ['444'],
    alpha: [10],
  },
  vp9: { name: 'VP9', containers: ['webm', 'mkv'], bits: [8, 10, 12], subsamplings: all, alpha: [8] },
  av1: { name: 'AV1', containers: ['webm', 'mp4', 'mkv'], bits: [8, 10], subsamplings: ['420'], alpha: [] },
  ffv1: {
    name: 'FFV1',
    containers: ['mkv', 'mov'],
    bits: [8, 10, 12],
    subsamplings: all,
    alpha: [8, 10],
  },
  png: { name: 'PNG', containers: ['png'], bits: [8, 16], subsamplings: ['444'], alpha: [8, 16] },
};

export const containerKinds: Record<Container, { ending: string }> = {
  mp4: { ending: '.mp4' },
  mov: { ending: '.mov' },
  webm: { ending: '.webm' },
  mkv: { ending: '.mkv' },
  png: { ending: '.zip' },
};
