import { scanText } from '../../media/scan'
import { fail } from '../../problem'
import { listed } from '../../text'
import { makeRate, rateLabel, sameRate, type Rate } from '../../time/rate'
import type { PictureShape, WrittenPictures } from '../codec'

// Forms of intra pictures that are written: 4:2:2 profile (ITU-T H.262 8.2 and table 8-12), and D-10 (SMPTE ST 356).

/** Pictures of a size, and what they are coded as. */
export interface Form {
  readonly width: number
  readonly height: number
  /** Lines that are coded: D-10 has lines of the blanking above its picture. */
  readonly lines: number
  readonly scans: readonly PictureShape['scan'][]
  readonly rates: readonly Rate[]
  /** Profile and level by their code (table 8-4). */
  readonly profileLevel: number
  /** Megabits a second that it may have, also in words. */
  takes(megabits: number): boolean
  readonly taken: string
  /** What MXF calls the pictures (SMPTE RP 224), by megabits a second. */
  coding(megabits: number): string
  readonly d10: boolean
}

const whole = [makeRate(24000, 1001), makeRate(24), makeRate(25), makeRate(30000, 1001), makeRate(30)]
const fast = [makeRate(50), makeRate(60000, 1001), makeRate(60)]
const high = {
  ...{ profileLevel: 0x82, d10: false },
  // below this a picture of noise might not fit, whatever is left out of it
  takes: (megabits: number) => megabits >= 50 && megabits <= 200,
  taken: '50 000 to 200 000 kbit/s',
}
const intraAtHigh = () => '060e2b34040101030401020201040200'

/** The last byte but one of D-10's labels: 625 lines at so many megabits a second. */
const numbers: Readonly<Record<number, string>> = { 50: '01', 40: '03', 30: '05' }

/** All of them. */
const forms: readonly Form[] = [
  {
    ...{ width: 1920, height: 1080, lines: 1088, ...high, rates: whole, coding: intraAtHigh },
    scans: ['progressive', 'segmented', 'interlaced-tff', 'interlaced-bff'],
  },
  {
    ...{ width: 1280, height: 720, lines: 720, ...high, rates: [...whole, ...fast], coding: intraAtHigh },
    scans: ['progressive'],
  },
  {
    ...{ width: 720, height: 576, lines: 608, rates: [makeRate(25)], d10: true },
    scans: ['interlaced-tff', 'segmented'],
    ...{ profileLevel: 0x85, taken: '30 000, 40 000 or 50 000 kbit/s' },
    takes: (megabits) => numbers[megabits] !== undefined,
    coding: (megabits) => `060e2b340401010104010202010201${numbers[megabits]}`,
  },
]

/** The form of a shape; null where there is none. */
export function formOf({ width, height, rate, scan }: PictureShape): Form | null {
  const fits = (f: Form) => f.width === width && f.height === height && f.scans.includes(scan)
  return forms.find((f) => fits(f) && f.rates.some((r) => sameRate(r, rate))) ?? null
}

/** The same, or a problem that says which there are. */
export function needForm(shape: PictureShape): Form {
  const said = (f: Form) => {
    const scans = f.scans.map(scanText).join('; ')
    return `${f.width}×${f.height} (${scans}) at ${listed(f.rates.map(rateLabel), 'or')}`
  }
  const pictures = `${shape.width}×${shape.height}, ${scanText(shape.scan)},`
  return (
    formOf(shape) ??
    fail(
      'mpeg2.form',
      `Intra pictures of ${pictures} at ${rateLabel(shape.rate)} are not coded here.`,
      undefined,
      `Choose one of those there are: ${listed(forms.map(said), 'or')}.`,
    )
  )
}

/** Bytes of every picture: as many as its bit rate gives it. Fails where the form has no such rate. */
export function pictureBytes(shape: PictureShape, bitrate: number): number {
  const form = needForm(shape)
  if (!form.takes(bitrate / 1e6))
    fail(
      'mpeg2.rate',
      `Intra pictures of ${form.width}×${form.height} cannot have ${bitrate / 1000} kbit/s.`,
      undefined,
      `Choose ${form.taken}.`,
    )
  return Math.floor((bitrate * shape.rate.den) / (8 * shape.rate.num))
}

/** How pictures of so many bytes stand in MXF: as a stream of MPEG (SMPTE ST 381-1), or as D-10 (ST 386 table 2). */
export function writtenPictures(shape: PictureShape, bytes: number): WrittenPictures {
  const form = needForm(shape)
  const megabits = Math.round((bytes * 8 * shape.rate.num) / (shape.rate.den * 1e6))
  const wrapping = form.d10 ? `060e2b34040101010d0103010201${numbers[megabits]}01` : '060e2b34040101020d01030102046001'
  return { wrapping, coding: form.coding(megabits), lines: form.lines, further: [], d10: form.d10 }
}
