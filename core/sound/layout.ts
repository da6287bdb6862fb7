import type { MediaInfo } from '../media/media'

/** All sound channels of a file, track after track. */
export function sourceChannels(info: Pick<MediaInfo, 'audio'>): number {
  return info.audio.reduce((n, a) => n + a.channels, 0)
}

/** Layout of an output by its channel count, as EBU R 123 orders them. */
export function layoutOf(channels: number): string | null {
  return { 1: 'C', 2: 'L R', 6: 'L R C LFE Ls Rs' }[channels] ?? null
}

/** Which source channels an output has, in its order: all, none, or by number from 1; 0 is silence. */
export type Channels = 'all' | 'none' | readonly number[]

/** Source channels in output order (0-based; −1 is silence). */
export function routeOf(channels: Channels, sourceChannels: number): number[] {
  if (channels === 'none') return []
  if (channels === 'all') return Array.from({ length: sourceChannels }, (_, i) => i)
  return channels.map((c) => c - 1)
}
