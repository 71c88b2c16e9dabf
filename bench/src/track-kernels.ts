import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { TrackKernels } from '@lurn/core';

/** The kernels for following, as the package ships them. */
export function startTrackKernels(): TrackKernels {
  const path = new URL('kernels/kernels.wasm', import.meta.resolve('@lurn/core'));
  return new TrackKernels(new WebAssembly.Module(readFileSync(fileURLToPath(path))));
}
