import type { Ref } from 'vue'
import type { Palette } from './strip'

const names = { shotA: 'shot-a', shotB: 'shot-b' }
const same = ['ground', 'line', 'text', 'quiet', 'crane', 'red', 'ochre', 'moss', 'lilac']

function read(): Palette {
  const style = getComputedStyle(document.documentElement)
  const pairs = [...same.map((n): [string, string] => [n, n]), ...Object.entries(names)]
  return Object.fromEntries(pairs.map(([name, variable]) => [name, style.getPropertyValue(`--${variable}`).trim()]))
}

/**
 * Draws on a canvas, sharp on any screen, in the colours of the theme: at most once a frame, when the function that is
 * given back is called, and when the theme changes. `size` is in pixels of the page.
 */
export function useDrawing(
  canvas: Ref<HTMLCanvasElement | undefined>,
  size: () => { readonly width: number; readonly height: number },
  draw: (g: CanvasRenderingContext2D, colours: Palette) => void,
): () => void {
  let colours: Palette = {}
  let asked = 0
  const redraw = () => {
    if (!asked) asked = requestAnimationFrame(paint)
  }
  function paint() {
    asked = 0
    const c = canvas.value
    const g = c?.getContext('2d')
    if (!c || !g) return
    const ratio = window.devicePixelRatio || 1
    const [width, height] = [Math.round(size().width * ratio), Math.round(size().height * ratio)]
    if (c.width !== width || c.height !== height) Object.assign(c, { width, height })
    g.setTransform(ratio, 0, 0, ratio, 0, 0)
    draw(g, colours)
  }
  const renew = () => {
    colours = read()
    redraw()
  }
  const themes = new MutationObserver(renew)
  onMounted(() => {
    renew()
    themes.observe(document.documentElement, { attributeFilter: ['class'] })
  })
  onBeforeUnmount(() => {
    themes.disconnect()
    cancelAnimationFrame(asked)
  })
  return redraw
}
