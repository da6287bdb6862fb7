import { defineStore } from 'pinia'
import type { Part } from '../../core/container/structure'
import { toProblem, type Problem } from '../../core/problem'
import { InsideFile, type OpenedFile, type PartLook, type RemoteFile } from '../lib/inside'

/** A part in the tree; what is in it is known once it was opened. */
export interface PartNode {
  readonly part: Part
  readonly depth: number
  readonly above: PartNode | null
  open: boolean
  nodes: PartNode[] | null
  /** Where more of its parts begin, which are not loaded yet. */
  next: number | null
}

/** A line of the tree: a part, or the offer to load more of one. */
export type PartRow = { readonly node: PartNode } | { readonly more: PartNode | null; readonly depth: number }

let reader: InsideFile | null = null

/** One file looked into: its parts, the one in hand, and what that says. */
export const useInside = defineStore('inside', {
  state: () => ({
    opening: '',
    file: null as OpenedFile | null,
    problem: null as Problem | null,
    nodes: [] as PartNode[],
    next: null as number | null,
    hand: null as PartNode | null,
    look: null as PartLook | null,
    spec: '',
  }),
  getters: {
    rows(s): PartRow[] {
      const out: PartRow[] = []
      const walk = (nodes: readonly PartNode[], above: PartNode | null, next: number | null) => {
        for (const node of nodes) {
          out.push({ node })
          if (node.open && node.nodes) walk(node.nodes, node, node.next)
        }
        if (next !== null) out.push({ more: above, depth: (above?.depth ?? -1) + 1 })
      }
      walk(s.nodes as PartNode[], null, s.next)
      return out
    },
    faults: (s): number => s.nodes.reduce((n, x) => n + faultsIn(x as PartNode), 0),
  },
  actions: {
    /** Takes a file in hand, and leaves the one before. */
    async take(file: File | RemoteFile) {
      reader?.close()
      const own = (reader = new InsideFile())
      this.$patch({ opening: file.name, file: null, problem: null, nodes: [], next: null, hand: null, look: null })
      try {
        const opened = await own.ask({ ask: 'open', file })
        if (reader !== own) return
        this.file = opened
        await this.load(null)
        const [first] = this.nodes
        if (first) await this.choose(first as PartNode)
        // one that holds all of the file is opened at once
        if (this.nodes.length === 1 && first?.part.within !== null) await this.toggle(first as PartNode)
      } catch (e) {
        if (reader === own) this.problem = toProblem(e)
      } finally {
        if (reader === own) this.opening = ''
      }
    },
    /** Loads the first parts of a part, or of the file, or more of them. */
    async load(of: PartNode | null) {
      const own = reader!
      const from = of ? of.next : this.next
      const { parts, next } = await own.ask({ ask: 'parts', of: of?.part ?? null, from })
      if (reader !== own) return
      const depth = (of?.depth ?? -1) + 1
      const nodes = parts.map((part): PartNode => ({
        part: markRaw(part),
        depth,
        above: of,
        open: false,
        nodes: null,
        next: null,
      }))
      if (of) Object.assign(of, { nodes: [...(of.nodes ?? []), ...nodes], next })
      else this.$patch({ nodes: [...(this.nodes as PartNode[]), ...nodes], next })
    },
    async toggle(node: PartNode) {
      if (node.part.within === null) return
      node.open = !node.open
      if (node.open && !node.nodes) await this.attempt(() => this.load(node))
    },
    async choose(node: PartNode) {
      this.hand = node
      await this.attempt(async () => {
        const look = await reader!.ask({ ask: 'look', part: node.part })
        if (this.hand?.part === node.part) this.look = look
      })
    },
    /** What goes wrong while a file is looked into is said with it. */
    async attempt(act: () => Promise<void>) {
      const own = reader
      this.problem = null
      try {
        await act()
      } catch (e) {
        if (reader === own) this.problem = toProblem(e)
      }
    },
  },
})

const faultsIn = (n: PartNode): number =>
  (n.part.fault ? 1 : 0) + (n.nodes ?? []).reduce((sum, x) => sum + faultsIn(x), 0)
