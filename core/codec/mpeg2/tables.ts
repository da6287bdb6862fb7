// Variable-length codes and fixed tables of ITU-T H.262 (ISO/IEC 13818-2).

/** Codes by what they stand for, looked up by as many bits as the longest has. */
export interface Codes {
  readonly bits: number
  /** For every pattern of bits: what it stands for and the length of its code, 0 where there is none. */
  readonly values: Int16Array
  readonly lengths: Uint8Array
}

/** Codes out of pairs of bits as text and value. */
function codes(list: readonly (readonly [code: string, value: number])[]): Codes {
  const plain = list.map(([code, value]) => [code.replaceAll(' ', ''), value] as const)
  const bits = Math.max(...plain.map(([code]) => code.length))
  const values = new Int16Array(1 << bits)
  const lengths = new Uint8Array(1 << bits)
  for (const [code, value] of plain) {
    const from = parseInt(code, 2) << (bits - code.length)
    const to = from + (1 << (bits - code.length))
    values.fill(value, from, to)
    lengths.fill(code.length, from, to)
  }
  return { bits, values, lengths }
}

/** What stands for 33 macroblocks more (table B.1). */
export const incrementEscape = 0

/** How far on the next macroblock is (table B.1). */
export const increments = codes([
  ...['1', '011', '010', '0011', '0010', '00011', '00010', '0000111', '0000110'].map((c, i) => [c, i + 1] as const),
  ...Array.from({ length: 6 }, (_, i) => [(11 - i).toString(2).padStart(8, '0'), 10 + i] as const),
  ...Array.from({ length: 6 }, (_, i) => [(23 - i).toString(2).padStart(10, '0'), 16 + i] as const),
  ...Array.from({ length: 12 }, (_, i) => [(35 - i).toString(2).padStart(11, '0'), 22 + i] as const),
  ['00000001000', incrementEscape],
])

/** What a macroblock has (tables B.2 … B.4), as flags. */
export const has = { quant: 1, forward: 2, backward: 4, pattern: 8, intra: 16 } as const

/** Kinds of macroblocks by the kind of picture: I, P, B. */
export const kinds: Readonly<Record<number, Codes>> = {
  1: codes([
    ['1', has.intra],
    ['01', has.intra | has.quant],
  ]),
  2: codes([
    ['1', has.forward | has.pattern],
    ['01', has.pattern],
    ['001', has.forward],
    ['00011', has.intra],
    ['00010', has.forward | has.pattern | has.quant],
    ['00001', has.pattern | has.quant],
    ['000001', has.intra | has.quant],
  ]),
  3: codes([
    ['10', has.forward | has.backward],
    ['11', has.forward | has.backward | has.pattern],
    ['010', has.backward],
    ['011', has.backward | has.pattern],
    ['0010', has.forward],
    ['0011', has.forward | has.pattern],
    ['00011', has.intra],
    ['00010', has.forward | has.backward | has.pattern | has.quant],
    ['000011', has.forward | has.pattern | has.quant],
    ['000010', has.backward | has.pattern | has.quant],
    ['000001', has.intra | has.quant],
  ]),
}

/** Which blocks of the first six are coded (table B.9). */
export const patterns = codes([
  ...([['111', 60]] as const),
  ...[4, 8, 16, 32].map((v, i) => [(13 - i).toString(2).padStart(4, '0'), v] as const),
  ...[12, 48, 20, 40, 28, 44, 52, 56, 1, 61, 2, 62].map((v, i) => [(19 - i).toString(2).padStart(5, '0'), v] as const),
  ...[24, 36, 3, 63].map((v, i) => [(15 - i).toString(2).padStart(6, '0'), v] as const),
  ...[5, 9, 17, 33, 6, 10, 18, 34].map((v, i) => [(23 - i).toString(2).padStart(7, '0'), v] as const),
  ...[7, 11, 19, 35, 13, 49, 21, 41, 14, 50, 22, 42, 15, 51, 23, 43].map(
    (v, i) => [(31 - i).toString(2).padStart(8, '0'), v] as const,
  ),
  ...[25, 37, 26, 38, 29, 45, 53, 57, 30, 46, 54, 58].map(
    (v, i) => [(15 - i).toString(2).padStart(8, '0'), v] as const,
  ),
  ...[31, 47, 55, 59, 27, 39].map((v, i) => [(7 - i).toString(2).padStart(9, '0'), v] as const),
  ['000000001', 0],
])

/** Codes of motion (table B.10), without their signs. */
export const motions = codes([
  ['1', 0],
  ['01', 1],
  ['001', 2],
  ['0001', 3],
  ['000011', 4],
  ['0000101', 5],
  ['0000100', 6],
  ['0000011', 7],
  ['000001011', 8],
  ['000001010', 9],
  ['000001001', 10],
  ['0000010001', 11],
  ['0000010000', 12],
  ['0000001111', 13],
  ['0000001110', 14],
  ['0000001101', 15],
  ['0000001100', 16],
])

const sizes = (list: readonly string[]) => codes(list.map((c, i) => [c, i]))
/** How many bits a difference of a mean has: of luma, of chroma (tables B.12, B.13). */
export const meanSizes = [
  sizes('100 00 01 101 110 1110 11110 111110 1111110 11111110 111111110 111111111'.split(' ')),
  sizes('00 01 10 110 1110 11110 111110 1111110 11111110 111111110 1111111110 1111111111'.split(' ')),
] as const

/** Ends a block; stands before a run and a level as they are. */
export const [endOfBlock, escape] = [-1, -2]

/** A run of zeros and a level in one number. */
const pair = (run: number, level: number) => (run << 6) | level

/** Lines of `run,level code`; those with several codes count levels or runs on. */
const coefficients = (text: string): [string, number][] =>
  text
    .trim()
    .split('\n')
    .map((line) => {
      const [what, code] = line.trim().split(/\s+/) as [string, string]
      if (what === 'end') return [code, endOfBlock]
      if (what === 'escape') return [code, escape]
      const [run, level] = what.split(',').map(Number) as [number, number]
      return [code, pair(run, level)]
    })

/** What tables B.14 and B.15 have in common. */
const common = `
escape 000001
16,1 0000001000
3,3 000000011100
4,3 000000010010
6,2 000000011110
7,2 000000010101
8,2 000000010001
17,1 000000011111
18,1 000000011010
19,1 000000011001
20,1 000000010111
21,1 000000010110
1,6 0000000010110
1,7 0000000010101
2,5 0000000010100
3,4 0000000010011
5,3 0000000010010
9,2 0000000010001
10,2 0000000010000
22,1 0000000011111
23,1 0000000011110
24,1 0000000011101
25,1 0000000011100
26,1 0000000011011
0,16 00000000011111
0,17 00000000011110
0,18 00000000011101
0,19 00000000011100
0,20 00000000011011
0,21 00000000011010
0,22 00000000011001
0,23 00000000011000
0,24 00000000010111
0,25 00000000010110
0,26 00000000010101
0,27 00000000010100
0,28 00000000010011
0,29 00000000010010
0,30 00000000010001
0,31 00000000010000
0,32 000000000011000
0,33 000000000010111
0,34 000000000010110
0,35 000000000010101
0,36 000000000010100
0,37 000000000010011
0,38 000000000010010
0,39 000000000010001
0,40 000000000010000
1,8 000000000011111
1,9 000000000011110
1,10 000000000011101
1,11 000000000011100
1,12 000000000011011
1,13 000000000011010
1,14 000000000011001
1,15 0000000000010011
1,16 0000000000010010
1,17 0000000000010001
1,18 0000000000010000
6,3 0000000000010100
11,2 0000000000011010
12,2 0000000000011001
13,2 0000000000011000
14,2 0000000000010111
15,2 0000000000010110
16,2 0000000000010101
27,1 0000000000011111
28,1 0000000000011110
29,1 0000000000011101
30,1 0000000000011100
31,1 0000000000011011`

/** Table B.14 as it goes on behind the first coefficient. */
export const coefficients0 = codes(
  coefficients(`${common}
end 10
0,1 11
1,1 011
0,2 0100
2,1 0101
0,3 00101
3,1 00111
4,1 00110
1,2 000110
5,1 000111
6,1 000101
7,1 000100
0,4 0000110
2,2 0000100
8,1 0000111
9,1 0000101
0,5 00100110
0,6 00100001
1,3 00100101
3,2 00100100
10,1 00100111
11,1 00100011
12,1 00100010
13,1 00100000
0,7 0000001010
1,4 0000001100
2,3 0000001011
4,2 0000001111
5,2 0000001001
14,1 0000001110
15,1 0000001101
0,8 000000011101
0,9 000000011000
0,10 000000010011
0,11 000000010000
1,5 000000011011
2,4 000000010100
0,12 0000000011010
0,13 0000000011001
0,14 0000000011000
0,15 0000000010111`),
)

/** Table B.15, of intra blocks where a picture says so. */
export const coefficients1 = codes(
  coefficients(`${common.replace('16,1 0000001000', '16,1 0000001101')}
end 0110
0,1 10
1,1 010
0,2 110
2,1 00101
0,3 0111
3,1 00111
4,1 000110
1,2 00110
5,1 000111
6,1 0000110
7,1 0000100
0,4 11100
2,2 0000111
8,1 0000101
9,1 1111000
0,5 11101
0,6 000101
1,3 1111001
3,2 00100110
10,1 1111010
11,1 00100001
12,1 00100101
13,1 00100100
0,7 000100
1,4 00100111
2,3 11111100
4,2 11111101
5,2 000000100
14,1 000000101
15,1 000000111
0,8 1111011
0,9 1111100
0,10 00100011
0,11 00100010
1,5 00100000
2,4 0000001100
0,12 11111010
0,13 11111011
0,14 11111110
0,15 11111111`),
)

/** Where coefficients go, in the order they come (figures 7-2 and 7-3): lines one after the other, or by columns. */
export const scans: readonly Uint8Array[] = [
  Uint8Array.of(
    ...[0, 1, 8, 16, 9, 2, 3, 10, 17, 24, 32, 25, 18, 11, 4, 5, 12, 19, 26, 33, 40, 48, 41, 34, 27, 20, 13, 6, 7, 14],
    ...[21, 28, 35, 42, 49, 56, 57, 50, 43, 36, 29, 22, 15, 23, 30, 37, 44, 51, 58, 59, 52, 45, 38, 31, 39, 46, 53],
    ...[60, 61, 54, 47, 55, 62, 63],
  ),
  Uint8Array.of(
    ...[0, 8, 16, 24, 1, 9, 2, 10, 17, 25, 32, 40, 48, 56, 57, 49, 41, 33, 26, 18, 3, 11, 4, 12, 19, 27, 34, 42, 50],
    ...[58, 35, 43, 51, 59, 20, 28, 5, 13, 6, 14, 21, 29, 36, 44, 52, 60, 37, 45, 53, 61, 22, 30, 7, 15, 23, 31, 38],
    ...[46, 54, 62, 39, 47, 55, 63],
  ),
]

/** Weights of intra blocks until a stream says otherwise (7.4.2.1), line by line. */
export const intraWeights = Uint8Array.of(
  ...[8, 16, 19, 22, 26, 27, 29, 34, 16, 16, 22, 24, 27, 29, 34, 37, 19, 22, 26, 27, 29, 34, 34, 38, 22, 22, 26, 27],
  ...[29, 34, 37, 40, 22, 26, 27, 29, 32, 35, 40, 48, 26, 27, 29, 32, 35, 40, 48, 58, 26, 27, 29, 34, 38, 46, 56, 69],
  ...[27, 29, 35, 38, 46, 56, 69, 83],
)

/** Quantiser scales by their codes: in even steps, and not (table 7-6). */
export const quantisers: readonly Uint8Array[] = [
  Uint8Array.from({ length: 32 }, (_, i) => 2 * i),
  Uint8Array.of(
    ...[0, 1, 2, 3, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20, 22, 24, 28, 32, 36, 40, 44, 48, 52, 56, 64, 72, 80, 88],
    ...[96, 104, 112],
  ),
]

/** Codes by what they stand for, as they are written: a code's bits and how many there are, 0 where there is none. */
export function written({ bits, values, lengths }: Codes, count: number): { codes: Uint16Array; sizes: Uint8Array } {
  const [codes, sizes] = [new Uint16Array(count), new Uint8Array(count)]
  lengths.forEach((n, i) => {
    const v = values[i]!
    if (n === 0 || v < 0) return
    codes[v] = i >> (bits - n)
    sizes[v] = n
  })
  return { codes, sizes }
}
