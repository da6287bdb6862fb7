import type { Container } from '../container'
import { openMatroska } from './read'
import { matroskaStructure } from './structure'

/** Matroska and WebM (RFC 9559). */
export const matroska: Container = {
  name: 'matroska',
  brands: [
    { name: 'matroska', label: 'Matroska', extensions: ['.mkv'], mime: 'video/matroska', pictures: true },
    { name: 'webm', label: 'WebM', extensions: ['.webm'], mime: 'video/webm', pictures: true },
    { name: 'mka', label: 'Matroska sound', extensions: ['.mka'], mime: 'audio/matroska', pictures: false },
  ],
  recognise: (head) => head[0] === 0x1a && head[1] === 0x45 && head[2] === 0xdf && head[3] === 0xa3,
  open: openMatroska,
  structure: matroskaStructure,
}
