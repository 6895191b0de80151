/** The few parts of WebAssembly that browser and Node share, for packages that compile with neither's types. */
declare namespace WebAssembly {
  type Module = object;
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
  class Memory {
    constructor(descriptor: { initial: number; maximum?: number });
    readonly buffer: ArrayBuffer;
    grow(pages: number): number;
  }
  function compile(bytes: Uint8Array): Promise<Module>;
  function instantiate(module: Module, imports: Record<string, Record<string, unknown>>): Promise<Instance>;
}
