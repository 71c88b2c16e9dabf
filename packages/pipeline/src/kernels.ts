import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

let module: WebAssembly.Module | null = null;

/** The compiled kernels, read from the core package once a thread. */
export function kernelModule(): WebAssembly.Module {
  const core = import.meta.resolve('@lurn/core');
  return (module ??= new WebAssembly.Module(
    readFileSync(fileURLToPath(new URL('kernels/kernels.wasm', core))),
  ));
}
