export { scale } from './scale'

/** Where memory is free to be laid out. */
export const free: usize = __heap_base
