// @ts-expect-error The core is compiled without Node's types; its tests run there all the same.
import { readFileSync } from 'node:fs';
// @ts-expect-error As above.
import { fileURLToPath } from 'node:url';

declare global {
  interface ImportMeta {
    url: string;
  }
}

/** The compiled kernels, as the tests of the core load them. */
export const kernelModule = (): WebAssembly.Module =>
  new WebAssembly.Module(
    readFileSync(fileURLToPath(import.meta.url.replace('testing/kernel-module.js', 'kernels/kernels.wasm'))),
  );
