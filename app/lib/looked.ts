/** An image that the server made of a frame, with what it measured of it. */
export interface LookedAt {
  readonly src: string
  readonly figures: Readonly<Record<string, number | boolean>>
}

/** How long a frame is rested on before it is looked into, ms. */
const rest = 120

/** The image at an address and its figures, once the address has rested; null until then, and where there is none. */
export function useLooked(url: () => string | null): { looked: Ref<LookedAt | null>; failed: Ref<string | null> } {
  const looked = shallowRef<LookedAt | null>(null)
  const failed = ref<string | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined
  const clear = () => {
    clearTimeout(timer)
    if (looked.value) URL.revokeObjectURL(looked.value.src)
    looked.value = null
    failed.value = null
  }
  watch(
    url,
    (wanted) => {
      clear()
      if (wanted) timer = setTimeout(() => void load(wanted), rest)
    },
    { immediate: true },
  )
  async function load(wanted: string) {
    const answer = await fetch(wanted).catch(() => null)
    if (url() !== wanted) return
    if (!answer?.ok) {
      const said = (await answer?.json().catch(() => null)) as { error?: { message?: string } } | null
      failed.value = said?.error?.message ?? 'The server does not answer.'
      return
    }
    const figures = JSON.parse(answer.headers.get('x-figures') ?? '{}') as LookedAt['figures']
    const src = URL.createObjectURL(await answer.blob())
    if (url() === wanted) looked.value = { src, figures }
    else URL.revokeObjectURL(src)
  }
  onBeforeUnmount(clear)
  return { looked, failed }
}
