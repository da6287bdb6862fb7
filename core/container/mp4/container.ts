import type { Container } from '../container'
import { layout } from './layout'
import { openMp4 } from './read'
import { layUnits } from './units'
import { mp4Structure } from './structure'

const firstBoxes = new Set(['ftyp', 'moov', 'mdat', 'free', 'skip', 'wide', 'pnot', 'styp', 'uuid', 'moof'])

/** The ISO base media file format and its forerunner (ISO/IEC 14496-12, QuickTime File Format). */
export const mp4: Container = {
  name: 'mp4',
  brands: [
    { name: 'mp4', label: 'MP4', extensions: ['.mp4', '.m4v'], mime: 'video/mp4', pictures: true },
    { name: 'mov', label: 'MOV', extensions: ['.mov'], mime: 'video/quicktime', pictures: true },
    { name: 'm4a', label: 'M4A', extensions: ['.m4a'], mime: 'audio/mp4', pictures: false },
  ],
  recognise: (head) => firstBoxes.has(String.fromCharCode(...head.subarray(4, 8))),
  open: openMp4,
  structure: mp4Structure,
  start: true,
  layout,
  units: layUnits,
}
