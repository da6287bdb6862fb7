import type { Palette } from './strip'

const names = { shotA: 'shot-a', shotB: 'shot-b' }
const same = ['ground', 'line', 'text', 'quiet', 'crane', 'red', 'ochre', 'moss', 'lilac']

function read(): Palette {
  const style = getComputedStyle(document.documentElement)
  const pairs = [...same.map((n): [string, string] => [n, n]), ...Object.entries(names)]
  return Object.fromEntries(pairs.map(([name, variable]) => [name, style.getPropertyValue(`--${variable}`).trim()]))
}

/** The colours of the theme for what is drawn; `changed` is called when they are known, and when the theme changes. */
export function usePalette(changed: () => void): { readonly colours: Palette } {
  const palette = { colours: {} as Palette }
  const renew = () => {
    palette.colours = read()
    changed()
  }
  const themes = new MutationObserver(renew)
  onMounted(() => {
    renew()
    themes.observe(document.documentElement, { attributeFilter: ['class'] })
  })
  onBeforeUnmount(() => themes.disconnect())
  return palette
}
