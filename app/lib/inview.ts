import { useEventListener, useResizeObserver } from '@vueuse/core'
import { computed, ref, watch, type Ref } from 'vue'

/** Pixels beyond both ends whose rows or columns are kept in the page, so that scrolling shows no gap. */
const spare = 320

/** The nearest element around one that scrolls. */
function scrollerOf(element: HTMLElement | null): HTMLElement | null {
  for (let e = element?.parentElement ?? null; e; e = e.parentElement)
    if (/auto|scroll/.test(getComputedStyle(e).overflow)) return e
  return null
}

/**
 * Which of `count` rows or columns, each of `size` pixels, are in view: [first, end). They stand in `content`, from its
 * beginning, somewhere in an element that scrolls.
 */
export function useInView(content: Ref<HTMLElement | null>, axis: 'x' | 'y', size: number, count: () => number) {
  const scroller = computed(() => scrollerOf(content.value))
  const [from, to] = [ref(0), ref(0)]
  function look() {
    const [inner, outer] = [content.value?.getBoundingClientRect(), scroller.value?.getBoundingClientRect()]
    if (!inner || !outer) return
    const edge = axis === 'x' ? 'left' : 'top'
    from.value = Math.floor((outer[edge] - inner[edge]) / size)
    to.value = from.value + Math.ceil(outer[axis === 'x' ? 'width' : 'height'] / size) + 1
  }
  useEventListener(scroller, 'scroll', look, { passive: true })
  useResizeObserver(scroller, look)
  watch([content, count], look, { flush: 'post' })
  const beyond = Math.ceil(spare / size)
  const within = (n: number) => Math.max(0, Math.min(count(), n))
  return { first: computed(() => within(from.value - beyond)), end: computed(() => within(to.value + beyond)) }
}
