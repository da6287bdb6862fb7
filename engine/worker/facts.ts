/** Facts worked out from media, kept by what they were worked out from. */
export interface Facts {
  read(keys: readonly string[]): Promise<Map<string, unknown>>
  write(key: string, value: unknown): Promise<void>
}
