import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { openMedia } from '../../core/container/registry'
import { readInterchange } from '../../core/timeline/formats/registry'
import { sampleAtFrame } from '../../core/time/samples'
import { makeRate } from '../../core/time/rate'
import { drain, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import { openFile } from '../storage/disk'

const { folder, remove } = scratchFolder()
afterAll(remove)

it('chapters go into MP4, MOV and WAV files and beside them, and come back out of each', async () => {
  const storage = path.join(folder, 'storage')
  const rate = makeRate(30000, 1001)
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'), { rate, dropFrame: true })
  const engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  await engine.timelines.saveSplit(
    t.id,
    {
      regions: [{ id: 'r', name: 'Fog Bell', in: 20, out: 110, metadata: {} }],
      markers: [
        { id: 'a', at: 5, name: 'before' },
        { id: 'b', at: 31, name: 'Bank' },
        { id: 'c', at: 77, name: 'Glocke, “Ende”' },
        { id: 'd', at: 110, name: 'after' },
      ],
    },
    t.splitVersion,
  )
  for (const kind of ['rewrap', 'master', 'viewing', 'sound'] as const)
    await engine.outlets.save(outlet(kind, 'storage', recipe(kind)))
  await engine.outlets.choose(
    ['rewrap', 'master', 'viewing', 'sound'].map((outletId) => ({ timelineId: t.id, regionId: 'r', outletId })),
    true,
  )
  await drain(engine)
  const run = await engine.nights.start('night', 2)
  await drain(engine)
  const { items } = await engine.progress.view(run)
  expect(items.map((i) => [i.outlet, i.state, i.problem?.message ?? null])).toEqual(
    ['rewrap', 'master', 'viewing', 'sound'].map((k) => [k, 'done', null]),
  )
  for (const i of items) {
    const file = path.join(storage, i.path)
    const source = await openFile(file)
    const { info } = await openMedia(source)
    await source.close()
    expect(info.chapters.map((c) => c.name)).toEqual(['Bank', 'Glocke, “Ende”'])
    const expected =
      i.outlet === 'sound'
        ? [11, 57].map((n) => sampleAtFrame(20 + n, rate, 48000) - sampleAtFrame(20, rate, 48000))
        : [11 * 1001, 57 * 1001]
    expect(info.chapters.map((c) => c.at)).toEqual(expected)
    const stem = file.replace(/\.[^.]+$/, '')
    const vtt = readInterchange(readFileSync(`${stem}.chapters.vtt`, 'utf8'), 'x.vtt', rate).timeline
    expect(vtt.markers.map((m) => [m.at, m.name])).toEqual([
      [11, 'Bank'],
      [57, 'Glocke, “Ende”'],
    ])
    expect(readFileSync(`${stem}.chapters.csv`, 'utf8')).toContain('"Glocke, “Ende”",')
    if (i.outlet === 'sound' && existsSync('/usr/bin/sndfile-info'))
      expect(execFileSync('sndfile-info', [file], { encoding: 'utf8' })).toMatch(/Cue|cue/)
  }
  // an exported file that is brought in again has its chapters on the desk
  const again = await engine.timelines.bringIn({ root: 'storage', path: items[2]!.path })
  expect(again.split.markers.map((m) => [m.at, m.name])).toEqual([
    [11, 'Bank'],
    [57, 'Glocke, “Ende”'],
  ])
  // chapters typed elsewhere are laid on a timeline that is there, once
  writeFileSync(path.join(storage, 'more.vtt'), 'WEBVTT\n\n00:00:01.001 --> 00:00:02.000\nLow Water\n')
  const before = await engine.timelines.get(t.id)
  for (let i = 0; i < 2; i++) await engine.timelines.attachCuts(t.id, { root: 'storage', path: 'more.vtt' })
  const after = await engine.timelines.get(t.id)
  expect(after.split.markers.map((m) => [m.at, m.name])).toEqual([
    ...before.split.markers.map((m) => [m.at, m.name]),
    [30, 'Low Water'],
  ])
  expect([after.model.events, after.cuts]).toEqual([before.model.events, before.cuts])
  await engine.close()
})
