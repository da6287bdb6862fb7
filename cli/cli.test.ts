import { spawn, spawnSync } from 'node:child_process'
import {
  appendFileSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import path from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sumsOfFile } from '../engine/storage/hashing'
import { encodePcm } from '../core/codec/pcm/pcm'
import { wavHead } from '../core/container/wav/write'
import { reelEdl, type ReelPlan } from '../demo/reel'
import { scratchFolder, smallReel } from '../tests/fixtures'

const { folder, remove } = scratchFolder()
const state = path.join(folder, 'state')
const project = path.resolve(import.meta.dirname, '..')
const reel = path.join(folder, 'reel.mov')
let plan: ReelPlan

beforeAll(async () => {
  plan = await smallReel(reel)
  writeFileSync(path.join(folder, 'reel.edl'), reelEdl(plan, 'REEL'))
  writeFileSync(
    path.join(folder, 'regions.csv'),
    'name,in,out\nFog Bell,10:00:59:10,10:01:01:00\nLow Water,10:01:01:00,10:01:02:05\n',
  )
})
afterAll(remove)

/** Runs the command line as the launcher does. */
function velvet(...args: string[]) {
  const r = spawnSync(process.execPath, [path.join(project, 'dist', 'cli.mjs'), ...args], {
    encoding: 'utf8',
    cwd: project,
    env: { ...process.env, VELVET_HOME: project, XDG_STATE_HOME: state },
  })
  return { code: r.status, out: r.stdout, err: r.stderr, json: () => JSON.parse(r.stdout) as never }
}

describe('probe', () => {
  it('answers in JSON', () => {
    const r = velvet('probe', reel, '--json')
    expect(r.code).toBe(0)
    expect(r.json()).toMatchObject({
      container: 'mov',
      durationFrames: 120,
      durationSeconds: 4.8,
      timecode: { start: '10:00:59:00', rate: '25/1', dropFrame: false },
      video: [
        {
          codec: 'h264',
          profile: 'High',
          width: 640,
          height: 360,
          rate: '25/1',
          scan: 'progressive',
          chroma: '4:2:0',
          bitDepth: 8,
          pixelAspect: '1:1',
        },
      ],
      audio: [{ codec: 'pcm', channels: 2, sampleRate: 48000, bitDepth: 24 }],
    })
  })
  it('says in a sentence and in JSON what it cannot read', () => {
    writeFileSync(path.join(folder, 'letter.mov'), 'Dear Quayhouse Post')
    const r = velvet('probe', path.join(folder, 'letter.mov'), '--json')
    expect(r.code).toBe(2)
    expect(r.err).toContain('not a media file')
    expect(r.json()).toMatchObject({
      error: {
        code: 'media.unknown',
        fix: expect.any(String) as string,
        where: expect.stringContaining('letter.mov') as string,
      },
    })
    expect(velvet('probe', path.join(folder, 'nothing.mov')).code).toBe(2)
  })
})

describe('words', () => {
  it.each([
    [['probe', reel, '--jsn'], 'no option of probe. Did you mean --json?'],
    [['export', reel, '--recipe', 'sound', '--to', 'x', '--dryrun'], 'Did you mean --dry-run?'],
    [['export', reel, '--recipe', 'master', '--to', 'x', '--scan', 'both'], 'no scan “both”'],
    [['exprot', reel], 'no command “exprot”. Did you mean export?'],
    [['probe', reel, 'other.mov'], 'one word too many'],
    [['check', reel, '--spec'], '--spec wants a value'],
    [['check', reel, '--spec', 'osprey', '--waive', 'codec=agreed'], '--initials'],
    [['check', reel, '--spec', 'osprey', '--waive', 'colour=agreed', '--initials', 'QP'], 'no rule “colour”'],
  ])('%j are refused with a sentence', (args, words) => {
    const r = velvet(...args)
    expect([r.code, r.err.includes(words), r.err]).toEqual([2, true, r.err])
  })
  it('help lists what there is, without colours; the version is said', () => {
    const { code, out } = velvet('export', '--help')
    expect(code).toBe(0)
    for (const word of ['--dry-run', 'northmere', 'rewrap', 'pictureBitrate', '{region}']) expect(out).toContain(word)
    expect(out).not.toContain('\u001B')
    expect(velvet('--version').out).toMatch(/^Velvet Crane \d/)
  })
  it('an answer that is cut off ends quietly', () => {
    const cli = path.join(project, 'dist', 'cli.mjs')
    const r = spawnSync('sh', ['-c', `node ${cli} probe ${reel} --json | head -c 1`], { encoding: 'utf8' })
    expect([r.stdout, r.stderr]).toEqual(['{', ''])
  })
})

describe('check', () => {
  it('exits 1 where a must-rule fails and names it', () => {
    const r = velvet('check', reel, '--spec', 'northmere', '--json')
    expect(r.code).toBe(1)
    const { rules } = r.json() as { rules: { id: string; verdict: string }[] }
    expect(rules.find((x) => x.id === 'raster')!.verdict).toBe('fail')
    expect(rules.find((x) => x.id === 'rate')!.verdict).toBe('pass')
  })
  it('takes waivers by name', () => {
    const waive = ['raster', 'start', 'codec', 'depth', 'chroma', 'channels', 'loudness', 'papers', 'flashes', 'black']
    const words = waive.flatMap((id) => ['--waive', `${id}=as agreed`])
    const { rules } = velvet('check', reel, '--spec', 'northmere', ...words, '--initials', 'QP', '--json').json() as {
      rules: { id: string; verdict: string }[]
    }
    expect(rules.find((x) => x.id === 'raster')!.verdict).toBe('waived')
    expect(rules.find((x) => x.id === 'rate')!.verdict).toBe('pass')
  })
  it('judges all media in a folder in one go, and goes on after one that cannot be read', () => {
    const all = path.join(folder, 'delivered')
    mkdirSync(path.join(all, 'part 2'), { recursive: true })
    copyFileSync(reel, path.join(all, 'one.mov'))
    copyFileSync(reel, path.join(all, 'part 2', 'two.mov'))
    writeFileSync(path.join(all, 'broken.mxf'), 'no such thing')
    writeFileSync(path.join(all, 'notes.txt'), 'to be left alone')
    const r = velvet('check', all, '--spec', 'northmere', '--json')
    expect(r.code).toBe(2)
    const { files } = r.json() as { files: { file: string; verdict: string; problem?: { code: string } }[] }
    expect(files.map((f) => [path.relative(all, f.file), f.verdict, f.problem?.code])).toEqual([
      ['broken.mxf', 'unreadable', 'media.unknown'],
      ['one.mov', 'fail', undefined],
      [path.join('part 2', 'two.mov'), 'fail', undefined],
    ])
    rmSync(path.join(all, 'broken.mxf'))
    expect(velvet('check', all, '--spec', 'northmere')).toMatchObject({
      code: 1,
      out: expect.stringMatching(/fail {7}.*two\.mov[^]*Operational pattern[^]*0 of 2 files pass/) as string,
    })
    const none = path.join(folder, 'none')
    mkdirSync(none)
    expect(velvet('check', none, '--spec', 'northmere')).toMatchObject({
      code: 2,
      err: expect.stringContaining('no media files') as string,
    })
  })
  it('holds files against lists of checksums beside them, and names what is not there', async () => {
    const sent = path.join(folder, 'listed')
    mkdirSync(sent)
    copyFileSync(reel, path.join(sent, 'one.mov'))
    const { sha256 } = await sumsOfFile(reel, ['sha256'])
    const list = (sum: string) => writeFileSync(path.join(sent, 'SHA256SUMS'), `${sum}  one.mov\n`)
    list(sha256)
    const intact = () => velvet('check', path.join(sent, 'one.mov'), '--spec', 'lantern').out
    expect(intact()).toMatch(/^pass +File itself +whole, with the SHA-256 in SHA256SUMS$/m)
    list('0'.repeat(64))
    expect(intact()).toMatch(/^fail +File itself +not what was sent \(it has not the SHA-256 in SHA256SUMS\)/m)
    writeFileSync(path.join(sent, 'more.md5'), `${'0'.repeat(32)}  two.mov\n`)
    const r = velvet('check', sent, '--spec', 'lantern')
    expect(r.code).toBe(2)
    expect(r.out).toMatch(/unreadable.*two\.mov\n.*more\.md5 names this file, and it is not here/)
  })
  it('exits 2, not 1, when it is called wrongly', () => {
    const r = velvet('check', reel, '--json')
    expect(r.code).toBe(2)
    expect(r.json()).toMatchObject({ error: { code: 'usage', message: expect.stringContaining('spec') as string } })
  })
  it('takes a spec from a file, and exits 0 when it is met', () => {
    const spec = path.join(folder, 'mine.json')
    writeFileSync(
      spec,
      JSON.stringify({
        format: 'velvet-crane-spec/1',
        id: 'mine',
        name: 'Mine',
        recipient: '',
        issued: '',
        rules: [{ id: 'a', measure: 'frame-rate', severity: 'must', expect: { equals: '25/1' }, clause: '1' }],
      }),
    )
    expect(velvet('check', reel, '--spec', spec).code).toBe(0)
    // sound that is not there cannot be measured: the must-rule has not passed, and is named
    const rule = { id: 'deaf', measure: 'loudness', severity: 'must', expect: { max: 0 }, clause: '2' }
    writeFileSync(spec, JSON.stringify({ ...JSON.parse(readFileSync(spec, 'utf8')), rules: [rule] }))
    const to = path.join(folder, 'mute')
    expect(velvet('export', reel, '--recipe', 'master', '--set', 'channels=none', '--to', to).code).toBe(0)
    const mute = path.join(
      to,
      readdirSync(to).find((f) => f.endsWith('.mov'))!,
    )
    expect(velvet('check', mute, '--spec', spec)).toMatchObject({
      code: 1,
      out: expect.stringMatching(/unmeasured Integrated loudness .*cannot be measured, there is no sound/) as string,
    })
    writeFileSync(spec, JSON.stringify({ ...JSON.parse(readFileSync(spec, 'utf8')), rules: [] }))
    expect(velvet('check', reel, '--spec', spec).code).toBe(0)
    const cut = path.join(folder, 'cut.mov')
    writeFileSync(cut, readFileSync(reel).subarray(0, -5000))
    expect(velvet('check', cut, '--spec', spec)).toMatchObject({
      code: 1,
      out: expect.stringMatching(/fail {7}File itself .*not whole/) as string,
    })
    writeFileSync(spec, '{"format":"velvet-crane-spec/1","rules":[]}')
    expect(velvet('check', reel, '--spec', spec)).toMatchObject({
      code: 2,
      err: expect.stringContaining('id') as string,
    })
  })
})

describe('export', () => {
  it('lists every step of a dry run and writes nothing', () => {
    const to = path.join(folder, 'dry')
    const r = velvet(
      'export',
      reel,
      '--recipe',
      'viewing',
      '--to',
      to,
      '--regions',
      path.join(folder, 'regions.csv'),
      '--set',
      'width=640',
      '--set',
      'height=360',
      '--workers',
      '2',
      '--dry-run',
    )
    expect(r.code).toBe(0)
    expect(r.out).toContain('01_Fog_Bell.mp4')
    expect(r.out).toContain('read the file back, decode some of its pictures, measure and judge it, make checksums')
    expect(r.out).toMatch(/^About .* with 2 workers, .* on the disk, up to .* of memory\.$/m)
    expect(readdirSync(folder)).not.toContain('dry')
  })
  it('exports regions and reports paths, frames, verdicts and checksums', () => {
    const to = path.join(folder, 'out')
    const r = velvet(
      'export',
      reel,
      '--recipe',
      'rewrap',
      '--to',
      to,
      '--regions',
      path.join(folder, 'regions.csv'),
      '--workers',
      '2',
      '--checksums',
      'md5, xxh64',
      '--json',
    )
    expect([r.code, r.err]).toEqual([0, ''])
    const { deliverables } = r.json() as {
      deliverables: { path: string; frames: number; verdict: string; checksums: Record<string, string> }[]
    }
    const sumsOf = (d: { checksums: object }) => Object.entries(d.checksums).map(([k, sum]) => [k, String(sum).length])
    expect(deliverables.map((d) => [path.basename(d.path), d.frames, d.verdict, ...sumsOf(d)])).toEqual([
      ['01_Fog_Bell.mov', 40, 'pass', ['md5', 32], ['xxh64', 16]],
      ['02_Low_Water.mov', 30, 'pass', ['md5', 32], ['xxh64', 16]],
    ])
    const lists = readdirSync(to).filter((n) => n.startsWith('handover-') && !n.endsWith('.json'))
    expect(lists.map((n) => path.extname(n)).sort()).toEqual(['.md5', '.xxh64'])
    const [md5] = lists.filter((n) => n.endsWith('.md5'))
    expect(spawnSync('md5sum', ['-c', '--quiet', md5!], { cwd: to }).status).toBe(0)
    expect(velvet('probe', deliverables[0]!.path, '--json').json()).toMatchObject({
      durationFrames: 40,
      timecode: { start: '10:00:59:10' },
    })
  })
  it('takes pictures for what one says they are', () => {
    const to = path.join(folder, 'said')
    const args = ['--recipe', 'master', '--regions', path.join(folder, 'regions.csv'), '--scan', 'interlaced-bff']
    const r = velvet('export', reel, ...args, '--to', to, '--json')
    const [first] = (r.json() as { deliverables: { path: string }[] }).deliverables
    expect([r.code, r.err]).toEqual([0, ''])
    expect(velvet('probe', first!.path, '--json').json()).toMatchObject({ video: [{ scan: 'interlaced-bff' }] })
  })
  it('leaves out what a list sends to others, and writes the chapters it gives', () => {
    const csv = path.join(folder, 'sent.csv')
    writeFileSync(
      csv,
      'name,in,out,outlet,chapters\nFog Bell,10:00:59:10,10:01:01:00,lantern | osprey,10:00:59:20 The bell\n' +
        'Low Water,10:01:01:00,10:01:02:05,osprey,\n',
    )
    const to = path.join(folder, 'sent')
    const r = velvet('export', reel, '--recipe', 'viewing', '--regions', csv, '--outlet', 'lantern', '--to', to)
    expect(r.err).toContain('1 region of the list not for lantern.')
    expect(readdirSync(to).filter((f) => !f.startsWith('handover'))).toEqual([
      '01_Fog_Bell.chapters.csv',
      '01_Fog_Bell.chapters.vtt',
      '01_Fog_Bell.mp4',
    ])
  })
  it('splits sound alone between any two samples', () => {
    const [tape, to] = [path.join(folder, 'tape.wav'), path.join(folder, 'tape')]
    const sound = [Float32Array.from({ length: 100_001 }, (_, i) => 0.2 * Math.sin(i / 9))]
    const bext = { description: '', originator: '', originatorReference: '', date: '', time: '', history: '' }
    const head = wavHead({
      ...{ channels: 1, sampleRate: 48000, bitDepth: 16, samples: 100_001 },
      bext: { ...bext, timeReference: 0, loudness: null },
    })
    writeFileSync(tape, Buffer.concat([head, encodePcm(sound, 16, true)]))
    writeFileSync(path.join(folder, 'tape.csv'), 'name,in,out\nA,00:00:00.5,00:00:01:00001\nB,0:00:01:00001,0:00:02\n')
    const call = ['export', tape, '--recipe', 'sound', '--regions', path.join(folder, 'tape.csv'), '--to', to]
    const dry = velvet(...call, '--dry-run')
    expect([dry.code, dry.err]).toEqual([0, ''])
    expect(dry.out).toContain('24001 samples from 00:00:00:24000')
    const r = velvet(...call)
    expect([r.code, r.err]).toEqual([0, ''])
    for (const [name, samples] of Object.entries({ '01_A.wav': 24_001, '02_B.wav': 47_999 }))
      expect(velvet('probe', path.join(to, name), '--json').json()).toMatchObject({ audio: [{ samples }] })
  })
  it('makes a region of each event of a list', () => {
    const to = path.join(folder, 'events')
    expect(velvet('export', reel, '--recipe', 'sound', '--to', to, '--cuts', path.join(folder, 'reel.edl')).code).toBe(
      0,
    )
    expect(readdirSync(to).filter((f) => f.endsWith('.wav'))).toEqual([
      '01_chainWide.wav',
      '02_bell.wav',
      '03_gannets.wav',
    ])
  })
  it('keeps what its outlet would refuse behind, and exits 1', () => {
    const to = path.join(folder, 'refused')
    mkdirSync(to)
    const r = velvet('export', reel, '--recipe', 'rewrap', '--to', to, '--outlet', 'osprey', '--json')
    expect(r.code).toBe(1)
    expect((r.json() as { deliverables: { state: string }[] }).deliverables[0]!.state).toBe('held')
    expect(readdirSync(to)).toEqual([])
  })
  it('reads what coded pictures say where an outlet asks about them, and copies those that lean on no other', () => {
    const spec = path.join(folder, 'alone.json')
    const rule = { id: 'alone', measure: 'intra', severity: 'must', expect: { equals: true }, clause: '1' }
    const named = { id: 'alone', name: 'Alone', recipient: '', issued: '' }
    writeFileSync(spec, JSON.stringify({ format: 'velvet-crane-spec/1', ...named, rules: [rule] }))
    const to = path.join(folder, 'leaning')
    mkdirSync(to)
    const r = velvet('export', reel, '--recipe', 'rewrap', '--to', to, '--outlet', spec)
    expect([r.code, r.out + r.err]).toEqual([1, expect.stringContaining('in groups that lean on each other')])
    expect(readdirSync(to)).toEqual([])
  })
  it.each([
    [['--recipe', 'nothing'], 'no recipe'],
    [['--recipe', 'sound', '--set', 'width=3'], 'not a setting'],
    [['--recipe', 'sound', '--set', 'gain=loud'], 'gain'],
    [['--recipe', 'sound', '--workers', 'many'], 'workers'],
    [['--recipe', 'sound', '--checksums', 'md5,crc'], 'no kind of checksum “crc”'],
    [['--recipe', 'sound', '--outlet', 'nobody'], 'no specification'],
  ])('refuses %j with a sentence', (args, words) => {
    const r = velvet('export', reel, '--to', path.join(folder, 'no'), ...args)
    expect([r.code, r.err.includes(words)]).toEqual([2, true])
  })
})

describe('an export that is told to end', () => {
  it('leaves nothing half made, nor anything of its own', async () => {
    const to = path.join(folder, 'ended')
    const temp = path.join(folder, 'tmp')
    mkdirSync(temp)
    const args = ['export', reel, '--recipe', 'master', '--to', to, '--workers', '1', '--set', 'channels=none']
    const child = spawn(process.execPath, [path.join(project, 'dist', 'cli.mjs'), ...args], {
      cwd: project,
      env: { ...process.env, VELVET_HOME: project, TMPDIR: temp, XDG_STATE_HOME: temp },
      stdio: 'ignore',
    })
    const left = () => (existsSync(to) ? (readdirSync(to, { recursive: true }) as string[]) : [])
    await expect.poll(() => left().some((f) => f.includes('inplace'))).toBe(true)
    const ended = new Promise((resolve) => child.on('exit', resolve))
    child.kill('SIGTERM')
    expect(await ended).toBe(143)
    expect([
      left().filter((f) => /\.(mov|part)$|inplace/.test(f)),
      readdirSync(path.join(temp, 'velvet-crane', 'exports')),
    ]).toEqual([[], []])
  })
})

describe('an export that was cut off', () => {
  it('is taken up again by the same call: what is proven and unchanged is not made again', async () => {
    const to = path.join(folder, 'cut off')
    const words = [
      'export',
      reel,
      '--recipe',
      'master',
      '--cuts',
      path.join(folder, 'reel.edl'),
      '--to',
      to,
      '--workers',
      '1',
    ]
    const child = spawn(process.execPath, [path.join(project, 'dist', 'cli.mjs'), ...words], {
      cwd: project,
      env: { ...process.env, VELVET_HOME: project, XDG_STATE_HOME: state },
      stdio: 'ignore',
    })
    const files = () =>
      existsSync(to)
        ? readdirSync(to)
            .filter((f) => f.endsWith('.mov'))
            .sort()
        : []
    await expect.poll(files, { interval: 20 }).toHaveLength(2)
    const ended = new Promise((resolve) => child.on('exit', resolve))
    child.kill('SIGKILL')
    await ended
    const [first, second] = files().map((f) => path.join(to, f))
    const written = statSync(first!).mtimeMs
    appendFileSync(second!, 'somebody wrote into it')
    const again = velvet(...words)
    expect([again.code, again.err]).toEqual([0, '1 file of an earlier call, proven and unchanged; the rest is made.\n'])
    expect(again.out.trim().split('\n')).toHaveLength(3)
    expect([files(), statSync(first!).mtimeMs]).toEqual([
      ['01_chainWide.mov', '02_bell.mov', '02_bell_v02.mov', '03_gannets.mov'],
      written,
    ])
    expect(readdirSync(to).filter((f) => f.startsWith('.'))).toEqual([])
    // a call that ended well leaves nothing behind: the same one makes everything again, over nothing
    expect(readdirSync(path.join(state, 'velvet-crane', 'exports'))).toEqual([])
    expect(velvet(...words).code).toBe(0)
    expect(files()).toHaveLength(7)
  })
})

describe('timeline', () => {
  it('tells events, links, markers and problems as JSON', () => {
    const list = path.join(folder, 'lists', 'night.edl')
    mkdirSync(path.dirname(list), { recursive: true })
    writeFileSync(
      list,
      'TITLE: NIGHT\nFCM: NON-DROP FRAME\n001 reel V C 10:00:59:10 10:01:00:10 01:00:00:00 01:00:01:00\n' +
        '002 reel V D 005 10:01:01:00 10:01:02:00 01:00:01:00 01:00:02:00\n' +
        '003 LOST V C 00:00:00:00 00:00:01:00 01:00:02:00 01:00:03:00\n' +
        '* MARKER: 01:00:00:05 look\n004 X V C 00:00:00:99\n',
    )
    const r = velvet('timeline', list, '--media', folder, '--json')
    expect([r.code, r.err]).toEqual([0, ''])
    const t = r.json() as {
      rate: string
      start: string
      length: number
      events: Record<string, unknown>[]
      markers: unknown[]
      problems: { code: string; where: string }[]
    }
    expect(t).toMatchObject({
      rate: '25/1',
      start: '01:00:00:00',
      length: 75,
      markers: [{ name: 'look', kind: 'marker', at: 5, frames: 0 }],
    })
    const start = plan.start
    expect(t.events[0]).toEqual({
      track: 'V',
      kind: 'video',
      name: '',
      reel: 'reel',
      source: { in: start + 10, out: start + 35, rate: '25/1' },
      record: { in: 0, out: 25 },
      speed: 1,
      transition: null,
      link: { file: reel, offset: start },
    })
    expect(t.events[1]).toMatchObject({ transition: { kind: 'dissolve', frames: 5 } })
    expect(t.events[2]).toMatchObject({ link: null })
    expect(t.problems.map((p) => p.code)).toEqual(['edl.broken-line', 'link.missing'])
  })
  it('is exported like a media file', () => {
    const list = path.join(folder, 'lists', 'cut.edl')
    writeFileSync(
      list,
      'TITLE: CUT\n001 reel V C 10:00:59:10 10:01:00:10 01:00:00:00 01:00:01:00\n' +
        '002 reel AA C 10:00:59:10 10:01:00:10 01:00:00:00 01:00:01:00\n',
    )
    const r = velvet(
      'export',
      list,
      '--media',
      folder,
      '--recipe',
      'rewrap',
      '--to',
      path.join(folder, 'from-list'),
      '--workers',
      '1',
      '--json',
    )
    expect([r.code, r.err]).toEqual([0, ''])
    const { deliverables } = r.json() as { deliverables: { path: string; frames: number; verdict: string }[] }
    expect(deliverables.map((d) => [d.frames, d.verdict])).toEqual([[25, 'pass']])
    expect(velvet('probe', deliverables[0]!.path, '--json').json()).toMatchObject({
      durationFrames: 25,
      timecode: { start: '01:00:00:00' },
    })
  })
})

describe('convert', () => {
  it('writes another format, says what is lost, and overwrites nothing', () => {
    const list = path.join(folder, 'reel.edl')
    const out = path.join(folder, 'reel.otio')
    expect(velvet('convert', list, '--to', 'otio', '--out', out)).toMatchObject({ code: 0, err: '' })
    expect(velvet('convert', list, '--to', 'otio', '--out', out).code).toBe(2)
    const back = velvet('convert', out, '--to', 'vtt')
    expect(back).toMatchObject({
      code: 0,
      err: expect.stringContaining('WebVTT holds chapters only; 3 events cannot be written') as string,
      out: expect.stringContaining('WEBVTT') as string,
    })
    expect(velvet('convert', list, '--to', 'paper').code).toBe(2)
  })
})

describe('analyse', () => {
  it('finds the cuts, and says loudness, levels and faults in frames', () => {
    const r = velvet('analyse', reel, '--json')
    expect(r.code).toBe(0)
    const a = r.json() as {
      frames: number
      rate: string
      cuts: unknown[]
      loudness: { integrated: number; momentary: unknown[] }
      levels: { excursions: unknown[]; active: unknown }
    } & Record<string, unknown[]>
    expect([a.frames, a.rate]).toEqual([120, '25/1'])
    expect(a.cuts).toEqual([50, 90].map((at) => ({ at, kind: 'cut', from: at, to: at })))
    expect(['black', 'freeze', 'flashes', 'silence', 'clicks', 'dropouts'].map((k) => a[k]!.length)).toEqual([
      0, 0, 0, 0, 0, 0,
    ])
    expect(a.fields).toEqual({ two: [], one: true })
    expect(a.loudness.integrated).toBeGreaterThan(-25)
    expect(a.loudness.momentary).toHaveLength(48)
    expect(velvet('analyse', reel).out).toMatch(/cut {8}10:01:01:00/)
  })
  it('says in a sentence what is no media', () => {
    expect(velvet('analyse', path.join(folder, 'regions.csv'))).toMatchObject({
      code: 2,
      err: expect.stringContaining('not a media file') as string,
    })
  })
})

describe('split', () => {
  it('looks through the media where the way goes by them, and gives CSV that export takes', () => {
    const r = velvet('split', reel, '--by', 'shots', '--cuts', path.join(folder, 'reel.edl'), '--csv')
    expect([r.code, r.err]).toEqual([0, ''])
    const cut = plan.shots.map((_, i, all) => all.slice(0, i).reduce((n, s) => n + s.frames, 0))
    expect(r.out.trim().split('\n')).toHaveLength(cut.length + 1)
    const found = velvet('split', reel, '--by', 'shots', '--json')
    const { regions } = found.json() as { regions: { in: number }[] }
    expect(regions.map((x) => x.in)).toEqual(cut)
    const silent = velvet('split', reel, '--by', 'silence=1s')
    expect([silent.code, silent.out]).toEqual([0, '10:00:59:00  10:01:03:20  0:00:04:20  Part 01\n'])
    const moved = velvet('split', reel, '--by', 'count=2', '--set', 'to=cut', '--csv')
    expect(moved.out).toContain('Part 01,10:00:59:00,10:01:01:00')
  })
  it('takes settings by name, names by a pattern, and files', () => {
    const pieces = velvet('split', reel, '--by', 'length=2s', '--set', 'to=nothing', '--names', '{timeline} {number}')
    expect(pieces.out.split('\n').map((l) => l.slice(0, 24))).toContain('10:01:01:00  10:01:03:00')
    expect(pieces.out).toContain('reel 01')
    const listed = velvet('split', reel, '--by', `file=${path.join(folder, 'regions.csv')}`, '--json')
    expect(listed.json()).toMatchObject({ regions: [{ name: 'Fog Bell', in: 10, out: 50 }, { name: 'Low Water' }] })
  })
  it.each([
    [['--by', 'blak'], 'Did you mean black?'],
    [['--by', 'length=soon'], '“soon” cannot be read'],
    [['--by', 'whole', '--set', 'least=2'], '“least” is not a setting of whole'],
  ])('says what is wrong with %s', (args, text) => {
    const r = velvet('split', reel, ...args)
    expect([r.code, r.err]).toEqual([2, expect.stringContaining(text)])
  })
})

describe('log', () => {
  it('tells the last entries readably, and that there are none', () => {
    const data = path.join(folder, 'served')
    mkdirSync(path.join(data, 'log'), { recursive: true })
    expect(velvet('log', '--data', data).out).toContain('Nothing went wrong so far')
    const line = {
      level: 50,
      time: '2026-11-26T01:02:03.004Z',
      pid: 1,
      worker: 'w7',
      err: { message: 'no', stack: 'Error: no\n    at x' },
    }
    writeFileSync(
      path.join(data, 'log', 'velvet-2026-11-26.log'),
      `${JSON.stringify({ ...line, msg: 'a step failed' })}\n`,
    )
    expect(velvet('log', '--data', data).out).toBe(
      '2026-11-26 01:02:03 UTC  error    a step failed: no\n    worker w7\n    Error: no\n    at x\n',
    )
    expect(velvet('log', '--data', path.join(folder, 'nowhere')).code).toBe(2)
  })
})

it('a run of stills is exported under its one name, and said to be missing where an end of it is', async () => {
  const at = path.join(folder, 'boards')
  mkdirSync(at)
  const board = sharp({ create: { width: 64, height: 36, channels: 4, background: '#2060a080' } }).png()
  const bytes = await board.toBuffer()
  for (const n of [1, 2, 3, 4]) writeFileSync(path.join(at, `b.000${n}.png`), bytes)
  const regions = path.join(at, 'regions.csv')
  writeFileSync(regions, 'name,in,out\nBoard,00:00:00:02,00:00:00:04\n')
  const to = path.join(at, 'out')
  const args = ['--recipe', 'copied-stills', '--to', to, '--regions', regions, '--set', 'firstNumber=1']
  const r = velvet('export', path.join(at, 'b.[0001-0004].png'), ...args)
  expect([r.code, r.err]).toEqual([0, expect.stringContaining('copied stills keep it')])
  expect(readFileSync(path.join(to, '01_Board', '01_Board.0000002.png')).equals(bytes)).toBe(true)
  const missing = velvet('export', path.join(at, 'b.[0001-0005].png'), ...args)
  expect([missing.code, missing.err]).toEqual([2, expect.stringContaining('There is no such file')])
})
