/** The part of WebAssembly's JavaScript interface that core uses, since core compiles without DOM types. */
declare namespace WebAssembly {
  interface MemoryDescriptor {
    initial: number;
    maximum?: number;
    shared?: boolean;
  }
  class Memory {
    constructor(descriptor: MemoryDescriptor);
    readonly buffer: ArrayBufferLike;
    grow(pages: number): number;
  }
  class Module {
    constructor(bytes: ArrayBufferLike | ArrayBufferView);
  }
  class Instance {
    constructor(module: Module, imports?: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
  function instantiate(module: Module, imports: Record<string, Record<string, unknown>>): Promise<Instance>;
}
