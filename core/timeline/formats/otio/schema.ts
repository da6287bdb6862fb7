import { makeRate, nearestRate, sameRate, type Frames, type Rate } from '../../../time/rate'
import { mulDivRound } from '../../../time/samples'

/** What the objects of an OpenTimelineIO file have in common: schemas, times, ranges. */
export type Json = Record<string, unknown>
export const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v)
export const list = (v: unknown): unknown[] => (Array.isArray(v) ? v : [])
export const text = (v: unknown): string => (typeof v === 'string' ? v : '')
export const schemaOf = (v: unknown): string => (isObject(v) ? text(v.OTIO_SCHEMA).replace(/\.\d+$/, '') : '')
export const deepest = 40

/** Our own keys in the metadata of objects we write. */
export const ours = 'velvet_crane'

/** An exact rate of the floating-point one in a file. */
function exactRate(value: unknown): Rate | null {
  const v = Number(value)
  if (!Number.isFinite(v) || v <= 0 || v > 100_000) return null
  if (Math.abs(v - Math.round(v)) < 1e-6) return makeRate(Math.round(v))
  return nearestRate(v) ?? makeRate(Math.round(v * 1000), 1000)
}

export interface Time {
  readonly value: number
  readonly rate: Rate
}
export function timeOf(v: unknown): Time | null {
  if (!isObject(v)) return null
  const rate = exactRate(v.rate)
  const value = Number(v.value)
  return rate && Number.isFinite(value) && Math.abs(value) < 1e12 ? { value, rate } : null
}

/** Frames at a rate, to the nearest. */
export function at(t: Time | null, rate: Rate): Frames {
  if (!t) return 0
  if (sameRate(t.rate, rate)) return Math.round(t.value)
  return Number.isInteger(t.value) && Number.isSafeInteger(t.value * t.rate.den * rate.num)
    ? mulDivRound(t.value, t.rate.den * rate.num, t.rate.num * rate.den)
    : Math.round(((t.value * t.rate.den) / t.rate.num) * (rate.num / rate.den))
}

export function rangeOf(v: unknown): { start: Time; duration: Time } | null {
  if (!isObject(v)) return null
  const start = timeOf(v.start_time)
  const duration = timeOf(v.duration)
  return start && duration && duration.value >= 0 ? { start, duration } : null
}
