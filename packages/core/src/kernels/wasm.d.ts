// The part of the WebAssembly JavaScript interface that the core uses; neither the DOM's nor Node's types are loaded here.
declare namespace WebAssembly {
  class Module {
    constructor(bytes: ArrayBuffer | Uint8Array);
  }
  class Memory {
    constructor(descriptor: { initial: number; maximum?: number; shared?: boolean });
    readonly buffer: ArrayBuffer;
    grow(pages: number): number;
  }
  interface Instance {
    readonly exports: Record<string, unknown>;
  }
  function instantiate(module: Module, imports: Record<string, Record<string, unknown>>): Promise<Instance>;
}

// Structured cloning exists in every host: pages, workers, Node.
declare function structuredClone<T>(value: T): T;
