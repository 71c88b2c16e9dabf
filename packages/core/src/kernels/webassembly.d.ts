// The few names of WebAssembly that the core needs; it is compiled without the DOM's types.
declare namespace WebAssembly {
  class Memory {
    constructor(descriptor: { initial: number; maximum?: number; shared?: boolean });
    readonly buffer: ArrayBuffer | SharedArrayBuffer;
    grow(pages: number): number;
  }
  class Module {
    constructor(bytes: ArrayBufferView | ArrayBuffer);
  }
  class Instance {
    constructor(module: Module, imports?: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
}
