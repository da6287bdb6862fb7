import { wasm } from './built'

/** The compiled side of the kernels: hot loops over memory that is laid out by whoever calls them. */
interface Exports {
  readonly memory: WebAssembly.Memory
  readonly free: { readonly value: number }
  scale(...places: number[]): void
}

/** The kernel of this thread: its functions, and room for what they read and write. */
export class Kernel {
  constructor(private readonly exports: Exports) {}

  get scale(): Exports['scale'] {
    return this.exports.scale
  }

  /** Lays parts of so many bytes out one after the other, on 16 bytes and with 64 to spare; gives where each begins. */
  lay(sizes: readonly number[]): number[] {
    const { memory, free } = this.exports
    let at = (free.value + 15) & ~15
    const places = sizes.map((n) => {
      const place = at
      at = (at + n + 64 + 15) & ~15
      return place
    })
    const missing = at - memory.buffer.byteLength
    if (missing > 0) memory.grow(Math.ceil(missing / 65536))
    return places
  }

  /** The bytes of memory; other ones after each {@link lay}. */
  bytes(): Uint8Array {
    return new Uint8Array(this.exports.memory.buffer)
  }
}

function load(): Kernel | null {
  try {
    const bytes = Uint8Array.from(atob(wasm), (c) => c.charCodeAt(0))
    const { exports } = new WebAssembly.Instance(new WebAssembly.Module(bytes), {
      env: { abort: () => undefined },
    })
    return new Kernel(exports as unknown as Exports)
  } catch {
    // a runtime without SIMD: the plain references serve
    return null
  }
}

let loaded: Kernel | null | undefined

/** The kernel, compiled when it is asked for first; null where the runtime cannot run it. */
export function kernel(): Kernel | null {
  if (loaded === undefined) loaded = load()
  return loaded
}
