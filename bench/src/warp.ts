import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import {
  kernelHeap,
  makeKernelMemory,
  multiply,
  startKernels,
  translation,
  type Interpolation,
  type Mat3,
} from '@lurn/core';
import { inTurns } from './rounds.js';
import { addRow, beginTable, type Table } from './tables.js';

const width = 1920;
const height = 1080;
const rounds = 9;
const goal = 3;

/** A small turn and growth, the way that is quickest; and what takes the general one. */
const quick: Mat3 = [0.95, -0.006, 40, 0.006, 0.95, 20, 0, 0, 1];
const about = (m: Mat3): Mat3 => multiply(translation(960, 540), multiply(m, translation(-960, -540)));
const general: [name: string, matrix: Mat3][] = [
  ['perspective', multiply(quick, [1, 0, 0, 0, 1, 0, 2e-6, 1e-6, 1])],
  ['perspective, strong', about([0.9, -0.05, 0, 0.06, 0.9, 0, 1.2e-4, 8e-5, 1])],
  ['turned by 38°', about([0.75, -0.58, 0, 0.58, 0.75, 0, 0, 0, 1])],
];

/** Warping a 1080p plane the general ways, against the quick one of 8 bits, in turns. */
export async function benchWarp(): Promise<Table[]> {
  const columns = ['warp', 'interpolation', 'bits', 'ms', 'ratio', 'goal'];
  const table = beginTable('kernels', 'Warping 1080p against the quick way at 8 bits', columns);
  const core = import.meta.resolve('@lurn/core');
  const wasm = readFileSync(fileURLToPath(new URL('kernels/kernels.wasm', core)));
  const bytes = 2 * width * height + 128;
  const kernels = startKernels(new WebAssembly.Module(wasm), makeKernelMemory(kernelHeap + 2 * bytes));
  const drawn = new Uint16Array(kernels.memory.buffer, kernelHeap, width * height);
  for (let i = 0; i < drawn.length; i++) drawn[i] = 512 + 400 * Math.sin(i * 0.61) * Math.cos(i * 0.0013);
  const bounds = { left: 0, top: 0, right: width, bottom: height };
  const plane = (at: number, depth: number) => ({ at, width, height, stride: depth * width });
  const warp = (matrix: Mat3, depth: number, interpolation: Interpolation) => async (): Promise<void> => {
    const [from, to] = [plane(kernelHeap, depth), plane(kernelHeap + bytes, depth)];
    if (depth === 1) kernels.warpPlane(from, to, matrix, bounds, interpolation, 16);
    else kernels.warpDeepPlane(from, to, matrix, bounds, interpolation, 64, 1023);
  };
  for (const interpolation of ['cubic', 'linear'] as const)
    for (const [name, matrix] of general)
      for (const depth of [1, 2]) {
        const yardstick = warp(quick, 1, interpolation);
        const { ours, ratio } = await inTurns(rounds, warp(matrix, depth, interpolation), yardstick);
        const bits = depth === 1 ? 8 : 10;
        addRow(table, name, interpolation, bits, ours.toFixed(1), ratio.toFixed(2), goal);
      }
  return [table];
}
