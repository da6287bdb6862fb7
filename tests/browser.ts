import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { existsSync, mkdirSync } from 'node:fs'
import { createServer } from 'node:net'
import path from 'node:path'
import { chromium, type Browser, type Page } from 'playwright-core'
import { afterAll, afterEach, beforeAll, expect } from 'vitest'
import flags from '../scripts/chromium.json'
import { readCounter } from '../demo/reel'
import { scratchFolder } from './fixtures'

export const chromiumPath = process.env.CHROMIUM ?? '/usr/bin/chromium'
const project = path.resolve(import.meta.dirname, '..')

export function openBrowser(): Promise<Browser> {
  if (!existsSync(chromiumPath)) throw new Error('Chromium is not installed.')
  return chromium.launch({
    executablePath: chromiumPath,
    args: [...flags, '--autoplay-policy=no-user-gesture-required'],
  })
}

/**
 * Records flat fields of colour one after the other, `each` ms long, with a tone of 1 kHz if wished, as a page of the
 * browser does; base64, or null for a kind it cannot record.
 */
export function record(
  page: Page,
  wanted: { mimeType: string; fields: readonly string[]; each: number; tone?: boolean; bitrate?: number },
): Promise<string | null> {
  return page.evaluate(async ({ mimeType, fields, each, tone, bitrate }) => {
    if (!MediaRecorder.isTypeSupported(mimeType)) return null
    const canvas = document.createElement('canvas')
    canvas.width = 640
    canvas.height = 360
    const g = canvas.getContext('2d')!
    const tracks: MediaStreamTrack[] = []
    // sound takes a while to begin: it is there before pictures are captured
    if (tone) {
      const sound = new AudioContext({ sampleRate: 48000 })
      const out = sound.createMediaStreamDestination()
      const oscillator = sound.createOscillator()
      oscillator.frequency.value = 1000
      oscillator.connect(out)
      oscillator.start()
      tracks.push(...out.stream.getTracks())
    }
    tracks.unshift(...canvas.captureStream(25).getTracks())
    const quality = bitrate ? { videoBitsPerSecond: bitrate } : {}
    const recorder = new MediaRecorder(new MediaStream(tracks), { mimeType, ...quality })
    const parts: Blob[] = []
    recorder.ondataavailable = (e) => parts.push(e.data)
    const stopped = new Promise((resolve) => (recorder.onstop = resolve))
    recorder.start()
    const begun = performance.now()
    for (let at = 0; at < fields.length * each; at = performance.now() - begun) {
      g.fillStyle = fields[Math.floor(at / each)]!
      g.fillRect(0, 0, 640, 360)
      await new Promise(requestAnimationFrame)
    }
    recorder.stop()
    await stopped
    const bytes = new Uint8Array(await new Blob(parts).arrayBuffer())
    let text = ''
    for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
    return btoa(text)
  }, wanted)
}

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const s = createServer()
    s.listen(0, '127.0.0.1', () => {
      const { port } = s.address() as { port: number }
      s.close(() => resolve(port))
    })
  })
}

interface Served {
  readonly url: string
  readonly process: ChildProcess
  readonly port: number
}

/** Starts the built application over folders of a test's own. */
export async function serve(data: string, storage: string, port?: number, host = '127.0.0.1'): Promise<Served> {
  const at = port ?? (await freePort())
  const child = spawn(process.execPath, [path.join(project, '.output/server/index.mjs')], {
    env: {
      ...process.env,
      VELVET_HOME: project,
      VELVET_DATA: data,
      VELVET_STORAGE: JSON.stringify([storage]),
      VELVET_HOST: host,
      VELVET_CHECK_ANSWERS: '1',
      NITRO_PORT: String(at),
      NITRO_HOST: '127.0.0.1',
      PORT: String(at),
      HOST: '127.0.0.1',
    },
    stdio: ['ignore', 'ignore', 'pipe'],
  })
  child.stderr!.pipe(process.stderr)
  const url = `http://127.0.0.1:${at}`
  for (let i = 0; i < 450; i++) {
    if (
      await fetch(`${url}/api/runs`).then(
        (r) => r.ok || r.status === 401,
        () => false,
      )
    )
      return { url, process: child, port: at }
    await new Promise((r) => setTimeout(r, 200))
  }
  throw new Error('The server did not come up.')
}

/**
 * Ends the application and waits until its workers are gone as well: they hold the same end of its stderr, and would
 * write into the test's folder while it is removed.
 */
export async function endServer({ process: child }: Served): Promise<void> {
  const closed = once(child, 'close')
  child.kill('SIGKILL')
  await closed
}

/* eslint-disable import/no-mutable-exports -- set before the first test of a file, by the two functions below */
/** The application under test, and its page. */
export let served: Served
export let page: Page
/* eslint-enable import/no-mutable-exports */
const errors: string[] = []

/** Starts the application before a file's tests, over folders of their own with what `prepare` puts there. */
export function application(prepare: () => Promise<void> | void): {
  folder: string
  storage: string
  startAgain: () => Promise<void>
} {
  const { folder, remove } = scratchFolder()
  const storage = path.join(folder, 'storage')
  const start = (port?: number) => serve(path.join(folder, 'data'), storage, port)
  beforeAll(async () => {
    mkdirSync(storage, { recursive: true })
    await prepare()
    served = await start()
  })
  afterAll(async () => {
    await endServer(served)
    remove()
  })
  return { folder, storage, startAgain: async () => void (served = await start(served.port)) }
}

/** Opens a page for a file's tests, as an operator has it before them. What goes wrong on it fails the test. */
export function pageOfApplication(): void {
  let browser: Browser
  beforeAll(async () => {
    browser = await openBrowser()
    page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'dark' })
    page.setDefaultTimeout(300_000)
    page.on('pageerror', (e) => errors.push(e.stack ?? e.message))
  })
  afterEach(async ({ task }) => {
    expect.soft(errors.splice(0), 'errors on the page').toEqual([])
    // what it showed is often all one needs to know why
    if (task.result?.state === 'fail')
      console.error(`${page.url()} showed:\n${await page.locator('body').innerText({ timeout: 5000 }).catch(String)}`)
  })
  afterAll(() => browser.close())
}

/** What a route answers, as JSON; what it refuses fails the test there and then. */
export async function ask<T>(what: string, method = 'GET', body?: unknown): Promise<T> {
  const r = await fetch(`${served.url}/api/${what}`, {
    method,
    ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
  })
  if (!r.ok) throw new Error(`${method} ${what}: ${r.status} ${await r.text()}`)
  return (await r.json()) as T
}

/**
 * Seeks in a video on the page, to a time within the picture that is wanted (s; `each`: how long a picture lasts at
 * most). What is drawn from the video may still be the picture before when the seek has ended: this waits until the
 * new one is presented, or so long that what is shown then is what the file gives.
 */
export function seeking(page: Page) {
  return page.evaluateHandle(
    () => (video: HTMLVideoElement, at: number, each: number) =>
      new Promise<void>((resolve) => {
        const shown: VideoFrameRequestCallback = (_, { mediaTime }) => {
          if (mediaTime > at - each && mediaTime <= at) resolve()
          else video.requestVideoFrameCallback(shown)
        }
        video.requestVideoFrameCallback(shown)
        video.onseeked = () => setTimeout(resolve, 5000)
        video.currentTime = at
      }),
  )
}

/** Frame numbers that Chromium shows at given frames of a video file, read from its own pixels. */
export async function countersInChromium(
  page: Page,
  src: string,
  frames: readonly number[],
  rate: { num: number; den: number },
): Promise<{ numbers: (number | null)[]; duration: number }> {
  const out: (number | null)[] = []
  let duration = 0
  const seek = await seeking(page)
  for (const n of frames) {
    const shot = await page.evaluate(
      async ({ seek, src, at, each }) => {
        const video = document.createElement('video')
        video.muted = true
        video.preload = 'auto'
        video.src = src
        await new Promise((resolve, reject) => {
          video.onloadeddata = resolve
          video.onerror = () => reject(new Error(`Chromium cannot play ${src}: ${video.error?.message}`))
        })
        await seek(video, at, each)
        const canvas = document.createElement('canvas')
        canvas.width = video.videoWidth
        canvas.height = video.videoHeight
        const g = canvas.getContext('2d', { willReadFrequently: true })!
        g.drawImage(video, 0, 0)
        const { data } = g.getImageData(0, 0, canvas.width, canvas.height)
        const luma = new Uint8Array(canvas.width * canvas.height)
        for (let i = 0; i < luma.length; i++)
          luma[i] = Math.round(
            16 + (219 * (0.2126 * data[4 * i]! + 0.7152 * data[4 * i + 1]! + 0.0722 * data[4 * i + 2]!)) / 255,
          )
        let text = ''
        for (let i = 0; i < luma.length; i += 8192) text += String.fromCharCode(...luma.subarray(i, i + 8192))
        return { width: canvas.width, luma: btoa(text), duration: video.duration }
      },
      { seek, src, at: ((n + 0.5) * rate.den) / rate.num, each: rate.den / rate.num },
    )
    duration = shot.duration
    out.push(readCounter(new Uint8Array(Buffer.from(shot.luma, 'base64')), shot.width))
  }
  return { numbers: out, duration }
}
