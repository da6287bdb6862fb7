export { convert } from './convert'
export { intraBitLength, intraBits } from './intra/bits'
export { intraDecode } from './intra/decode'
export { intraPlace } from './intra/read'
export { intraEncode, intraSlice } from './intra/encode'
export { intraPicture } from './intra/picture'
export { intraTables } from './intra/tables'
export { mpeg2Codes, mpeg2Picture, mpeg2Slice } from './mpeg2decode'
export { mpeg2Cost, mpeg2Load, mpeg2Tables, mpeg2Write } from './mpeg2encode'
export { deepen, difference, dither, downChroma, flatten, upChroma } from './planes'
export { preview } from './preview'
export { range } from './range'
export { scale } from './scale'
export { truePeak } from './truepeak'
export { packV210, packV210From420, unpackV210 } from './v210'
export { weigh } from './weighting'

/** Where memory is free to be laid out. */
export const free: usize = __heap_base
