/** Channels of nothing, to be filled as far as there is sound. */
export function silence(channels: number, count: number): Float32Array[] {
  return Array.from({ length: channels }, () => new Float32Array(count))
}
