import { Writer } from '../../bytes'
import type { TrackPlan } from '../container'

/** One track as it will stand in the file; its chunks count from the media data payload. */
export interface WrapTrack extends Omit<TrackPlan, 'essence'> {
  readonly kind: 'video' | 'audio' | 'timecode' | 'chapters'
  readonly sampleEntry: Uint8Array
  readonly width?: number
  readonly height?: number
  /** Display width after pixel aspect. */
  readonly displayWidth?: number
}

export interface Movie {
  readonly brand: 'mov' | 'mp4'
  readonly tracks: readonly WrapTrack[]
  /** Bytes of media data. */
  readonly dataSize: number
}

/** The matrix that leaves a picture where it is. */
export const identity = new Writer()
  .u32(0x10000)
  .u32(0)
  .u32(0)
  .u32(0)
  .u32(0x10000)
  .u32(0)
  .u32(0)
  .u32(0)
  .u32(0x40000000)
  .bytes()
