import type { Painter } from './paint'

/** What a shot shows. `t` runs in seconds from the shot's first frame. */
export type Scene = (p: Painter, t: number) => void

const wave = (p: Painter, y: number, t: number, colour: string, speed: number, height = 14) => {
  const points: [number, number][] = []
  for (let x = -40; x <= 1640; x += 20)
    points.push([x, y + Math.sin(x / 90 + t * speed) * height + Math.sin(x / 37 - t * speed * 0.6) * height * 0.4])
  const foot = Math.min(900, y + height * 1.5)
  p.polygon([...points, [1640, foot], [-40, foot]], colour)
  p.rect(0, foot, 1600, 900 - foot, colour)
}

const sea = (p: Painter, t: number, colours: readonly [string, string, string], horizon = 520) => {
  wave(p, horizon, t, colours[0], 0.8, 8)
  wave(p, horizon + 110, t + 2, colours[1], 1.1, 14)
  wave(p, horizon + 250, t + 5, colours[2], 1.5, 20)
}

const ferry = (p: Painter, x: number, y: number, hull: string, s = 1) => {
  p.polygon(
    [
      [x - 260 * s, y],
      [x + 260 * s, y],
      [x + 210 * s, y + 80 * s],
      [x - 215 * s, y + 80 * s],
    ],
    hull,
  )
  p.rect(x - 150 * s, y - 80 * s, 230 * s, 80 * s, '#f3ead9')
  p.rect(x - 110 * s, y - 140 * s, 120 * s, 60 * s, '#f3ead9')
  for (let i = 0; i < 4; i++) p.circle(x + (-115 + i * 52) * s, y - 42 * s, 15 * s, '#2c3e57')
  p.rect(x - 30 * s, y - 190 * s, 34 * s, 50 * s, '#c8553d')
  p.line(x - 90 * s, y - 140 * s, x - 90 * s, y - 230 * s, 6 * s, '#3a2f33')
  p.polygon(
    [
      [x - 87 * s, y - 228 * s],
      [x - 30 * s, y - 210 * s],
      [x - 87 * s, y - 192 * s],
    ],
    '#d9a441',
  )
}

const gull = (p: Painter, x: number, y: number, flap: number, s: number, colour = '#fbf6ee') => {
  p.polygon(
    [
      [x, y],
      [x - 60 * s, y - 30 * s * flap],
      [x - 110 * s, y - 8 * s * flap],
      [x - 55 * s, y - 12 * s * flap],
    ],
    colour,
  )
  p.polygon(
    [
      [x, y],
      [x + 60 * s, y - 30 * s * flap],
      [x + 110 * s, y - 8 * s * flap],
      [x + 55 * s, y - 12 * s * flap],
    ],
    colour,
  )
  p.ellipse(x, y + 2 * s, 26 * s, 10 * s, colour)
}

const hills = (p: Painter, y: number, colour: string, shift = 0) => {
  const points: [number, number][] = [[-10, y + 110]]
  for (let x = -10; x <= 1610; x += 30)
    points.push([x, y - 60 * Math.abs(Math.sin((x + shift) / 310)) - 26 * Math.sin((x + shift) / 97)])
  p.polygon([...points, [1610, y + 110]], colour)
}

export const scenes = {
  bars: ((p) => {
    ;['#c0c0c0', '#c0c000', '#00c0c0', '#00c000', '#c000c0', '#c00000', '#0000c0'].forEach((c, i) =>
      p.rect((i * 1600) / 7, 0, 1600 / 7 + 1, 660, c),
    )
    p.blend(660, 900, '#1b1420', '#1b1420')
    for (let i = 0; i < 11; i++) p.rect(i * 145.5, 690, 146, 60, `#${(i * 25).toString(16).padStart(2, '0').repeat(3)}`)
  }) satisfies Scene,
  slate: ((p, t) => {
    p.blend(0, 900, '#241a2b', '#3a2a40')
    p.rect(120, 130, 1360, 6, '#d9a441')
    p.text('THE FERRY ALMANAC', 120, 180, 96)
    p.text('Quayhouse Post, reel one', 120, 310, 56)
    p.text('25 fps   1920x1080   R 123 4a', 120, 400, 56)
    p.circle(1300, 420, 120, '#3f3049')
    const a = t * Math.PI * 0.66 - Math.PI / 2
    p.line(1300, 420, 1300 + Math.cos(a) * 105, 420 + Math.sin(a) * 105, 12, '#9cc3d5')
  }) satisfies Scene,
  black: ((p) => p.blend(0, 900, '#000000', '#000000')) satisfies Scene,
  chainWide: ((p, t) => {
    p.blend(0, 560, '#f6c9a0', '#f9e6c8')
    p.circle(1180, 400 - t * 8, 90, '#f08a5d')
    hills(p, 540, '#7a8f91', t * 12)
    sea(p, t, ['#5e9aa6', '#40808f', '#2b5f70'])
    ferry(p, 420 + t * 60, 560 + Math.sin(t * 2) * 6, '#a23b3b')
  }) satisfies Scene,
  chainClose: ((p, t) => {
    p.blend(0, 900, '#33545f', '#1c3440')
    for (let i = -2; i < 14; i++) {
      const x = i * 150 + ((t * 120) % 150)
      p.ellipse(x, 430 + i * 4, 92, 46, '#9aa5a8')
      p.ellipse(x, 430 + i * 4, 56, 22, '#2c4a55')
      p.rect(x + 50, 414 + i * 4, 50, 32, '#7d898d')
    }
    p.polygon(
      [
        [0, 620],
        [1600, 560],
        [1600, 900],
        [0, 900],
      ],
      '#5b3f35',
    )
  }) satisfies Scene,
  gannets: ((p, t) => {
    p.blend(0, 620, '#8ec5d6', '#dff0ee')
    hills(p, 610, '#4f7767', 200 + t * 30)
    sea(p, t * 1.3, ['#3d8fb0', '#2a769a', '#1d5877'], 600)
    for (let i = 0; i < 7; i++)
      gull(
        p,
        ((i * 260 + t * 190) % 1900) - 120,
        170 + ((i * 97) % 300) + Math.sin(t * 3 + i) * 20,
        Math.sin(t * 9 + i * 2),
        0.8 + (i % 3) * 0.25,
      )
  }) satisfies Scene,
  gannetDive: ((p, t) => {
    p.blend(0, 900, '#bfe3ea', '#2f7f9e')
    const y = 100 + ((t * 520) % 820)
    p.polygon(
      [
        [800, y + 150],
        [760, y],
        [700, y - 130],
        [800, y - 60],
        [900, y - 130],
        [840, y],
      ],
      '#fffaf0',
    )
    p.circle(800, y + 120, 30, '#e9c46a')
    for (let i = 0; i < 12; i++)
      p.circle(500 + i * 60 + Math.sin(i + t * 4) * 20, 780 - ((t * 90 + i * 53) % 200), 8 + (i % 4) * 3, '#e8f6f8')
  }) satisfies Scene,
  fog: ((p, t) => {
    p.blend(0, 900, '#b9bfc4', '#8d979e')
    ferry(p, 700 + t * 30, 600, '#5d5560', 0.9)
    for (let i = 0; i < 6; i++)
      p.rect(-200 + ((i * 330 + t * (40 + i * 12)) % 1900) - 300, 300 + i * 85, 900, 52, '#c9ced2', 0.55)
  }) satisfies Scene,
  bell: ((p, t) => {
    p.blend(0, 900, '#394653', '#20262f')
    const a = Math.sin(t * 3.1) * 0.35
    const [x, y] = [800 + Math.sin(a) * 260, 180 + Math.cos(a) * 260]
    p.line(800, 60, x, y - 120, 14, '#7b6a58')
    p.polygon(
      [
        [x - 60, y - 130],
        [x + 60, y - 130],
        [x + 110, y + 60],
        [x + 170, y + 120],
        [x - 170, y + 120],
        [x - 110, y + 60],
      ],
      '#c99a3f',
    )
    p.circle(x + Math.sin(a * 1.6) * 60, y + 140, 34, '#8a672b')
    p.rect(0, 0, 1600, 60, '#2b2028')
  }) satisfies Scene,
  carsAndCow: ((p, t) => {
    p.blend(0, 520, '#ffd9a8', '#fff1d6')
    hills(p, 500, '#9fb08b', t * 20)
    sea(p, t, ['#79b0a9', '#559089', '#3c6f6c'], 540)
    p.polygon(
      [
        [160, 560],
        [1440, 560],
        [1360, 700],
        [240, 700],
      ],
      '#43577a',
    )
    const bob = Math.sin(t * 2.2) * 6
    for (const [x, c] of [
      [330, '#c8553d'],
      [660, '#e2b04a'],
    ] as const) {
      p.rect(x, 470 + bob, 240, 70, c)
      p.polygon(
        [
          [x + 40, 470 + bob],
          [x + 80, 420 + bob],
          [x + 170, 420 + bob],
          [x + 205, 470 + bob],
        ],
        c,
      )
      p.circle(x + 55, 545 + bob, 28, '#2a2230')
      p.circle(x + 185, 545 + bob, 28, '#2a2230')
    }
    p.ellipse(1120, 480 + bob, 130, 64, '#f7f1e8')
    p.ellipse(1090, 466 + bob, 40, 30, '#3a2f33')
    p.circle(1262, 430 + bob + Math.sin(t * 5) * 8, 40, '#f7f1e8')
    for (const x of [1020, 1070, 1170, 1220]) p.rect(x, 520 + bob, 18, 50, '#f7f1e8')
  }) satisfies Scene,
  tideTable: ((p, t) => {
    p.blend(0, 900, '#efe5d0', '#e3d5b8')
    p.rect(180, 90, 1240, 700, '#fbf6ea')
    const rows = [
      'TALLOW SOUND   LW 04:12   0.6 m',
      'GANNET STACK   HW 10:31   4.1 m',
      'QUAYHOUSE      LW 16:40   0.4 m',
      'NORTH CHAIN    HW 22:58   4.3 m',
    ]
    rows.forEach((r, i) => {
      p.rect(230, 180 + i * 130, 1140, 100, i === Math.floor(t) % 4 ? '#8fb3bf' : '#4d6672')
      p.text(r, 262, 204 + i * 130, 54)
    })
    p.circle(1330, 130 + Math.sin(t) * 10, 26, '#c8553d')
  }) satisfies Scene,
  lowWater: ((p, t) => {
    p.blend(0, 480, '#f2b8a0', '#f7e3cf')
    p.blend(480, 900, '#d9b98a', '#b38d5d')
    wave(p, 500 + Math.sin(t * 0.6) * 20, t, '#6f9aa0', 0.7, 6)
    p.polygon(
      [
        [0, 640],
        [1600, 600],
        [1600, 900],
        [0, 900],
      ],
      '#c4a06c',
    )
    for (let i = 0; i < 7; i++) {
      const x = 160 + i * 220
      p.rect(x, 380 + i * 12, 34, 340, '#4b3a35')
      p.ellipse(x + 17, 724 + i * 12, 70, 14, '#9a7850')
    }
    p.polygon(
      [
        [900 + t * 4, 640],
        [1280 + t * 4, 650],
        [1230 + t * 4, 740],
        [960 + t * 4, 735],
      ],
      '#34577a',
    )
  }) satisfies Scene,
  lastBoat: ((p, t) => {
    p.blend(0, 560, '#151d3b', '#3c3558')
    for (let i = 0; i < 40; i++) p.circle((i * 397) % 1600, (i * 173) % 420, 2 + (i % 3), '#e9e3f0')
    hills(p, 560, '#0f1428', t * 8)
    sea(p, t * 0.8, ['#25305a', '#1a2348', '#111733'], 560)
    ferry(p, 1150 - t * 70, 590 + Math.sin(t * 1.7) * 5, '#2c2033')
    for (let i = 0; i < 4; i++) p.circle(1150 - t * 70 - 115 + i * 52, 548, 13, '#ffd27a')
  }) satisfies Scene,
  lighthouse: ((p, t) => {
    p.blend(0, 900, '#10152e', '#232447')
    p.polygon(
      [
        [1080, 900],
        [1120, 300],
        [1200, 300],
        [1240, 900],
      ],
      '#e6dccb',
    )
    p.rect(1110, 240, 100, 60, '#c8553d')
    const a = t * 2.4
    p.polygon(
      [
        [1160, 270],
        [1160 + Math.cos(a) * 1600, 270 + Math.sin(a) * 500 - 90],
        [1160 + Math.cos(a) * 1600, 270 + Math.sin(a) * 500 + 90],
      ],
      '#6d6a78',
      0.6,
    )
    wave(p, 780, t, '#0c1026', 0.9)
  }) satisfies Scene,
  promo: ((p, t) => {
    p.blend(0, 900, '#7a1f2b', '#2a1020')
    p.text('LAST BOAT HOME', 180 + t * 30, 300, 130)
    p.text('Thursday, after the tide tables', 190 + t * 18, 470, 60)
    ferry(p, 300 + t * 160, 720, '#12202f', 0.6)
  }) satisfies Scene,
  textless: ((p, t) => {
    p.blend(0, 560, '#9cc3d5', '#e9f1ef')
    hills(p, 560, '#6d8b7c', t * 40)
    sea(p, t, ['#4b93ab', '#38788f', '#275a6e'], 560)
  }) satisfies Scene,
  bulletin: ((p, t) => {
    p.blend(0, 900, '#123a46', '#0d2530')
    p.rect(0, 620, 1600, 120, '#d9a441')
    p.text('HARBOUR BULLETIN', 90, 640, 84, 30)
    for (let i = 0; i < 5; i++)
      p.ellipse(
        300 + i * 260,
        330 + Math.sin(t * 2 + i) * 60,
        90,
        90,
        ['#9cc3d5', '#93b86a', '#e2574c', '#b79ad6', '#efe7ea'][i]!,
      )
  }) satisfies Scene,
} as const

export type SceneName = keyof typeof scenes
