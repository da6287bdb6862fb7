import type { Container } from '../container'
import { openWav } from './read'
import { wavStructure } from './structure'

/** RIFF/WAVE and its 64-bit forms (EBU Tech 3285, EBU Tech 3306, ITU-R BS.2088). */
export const wav: Container = {
  name: 'wav',
  brands: [
    { name: 'wav', label: 'WAV', extensions: ['.wav'], mime: 'audio/wav', pictures: false },
    { name: 'rf64', label: 'RF64', extensions: ['.rf64', '.bw64'], mime: 'audio/wav', pictures: false },
  ],
  recognise(head) {
    const tag = (at: number) => String.fromCharCode(...head.subarray(at, at + 4))
    return ['RIFF', 'RF64', 'BW64'].includes(tag(0)) && tag(8) === 'WAVE'
  },
  open: openWav,
  start: true,
  structure: wavStructure,
}
