import { z } from 'zod'

/** A large thing that only this product writes: held by what every edition's has, not field by field. */
export const having = <T>(...fields: readonly (keyof T & string)[]): z.ZodType<T, T> =>
  z.custom<T>((v) => typeof v === 'object' && v !== null && fields.every((f) => f in v), `lacks ${fields.join(', ')}`)
