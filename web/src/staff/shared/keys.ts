import { onKeyStroke } from '@vueuse/core'
import { inject, onScopeDispose, provide, shallowReactive, watch, type InjectionKey } from 'vue'

const noText = ['button', 'checkbox', 'radio', 'submit', 'file', 'image', 'range', 'color', 'reset']

/** Whether a key goes into a field, so that it is no command. */
export function typing(e: KeyboardEvent): boolean {
  const t = e.target as HTMLElement | null
  if (!t) return false
  if (t.isContentEditable || /^(TEXTAREA|SELECT)$/.test(t.tagName)) return true
  return t.tagName === 'INPUT' && !noText.includes((t as HTMLInputElement).type)
}

/** What lies over the page, the uppermost last: dialogs, drawers, questions. */
const layers = shallowReactive<symbol[]>([])
const within: InjectionKey<symbol> = Symbol('layer')

/** Puts a layer over everything that is there, and gives what takes it away. */
export function cover(layer = Symbol()): () => void {
  if (!layers.includes(layer)) layers.push(layer)
  return () => {
    const at = layers.indexOf(layer)
    if (at >= 0) layers.splice(at, 1)
  }
}

/** Makes what this component holds a layer of its own, as long as it is open. */
export function useLayer(open: () => boolean) {
  const layer = Symbol()
  provide(within, layer)
  let uncover = () => {}
  watch(open, (now) => (now ? (uncover = cover(layer)) : uncover()), { immediate: true })
  onScopeDispose(() => uncover())
}

export interface KeyOptions {
  ctrl?: boolean // with Ctrl (or the command key)
  alt?: boolean
  typing?: boolean // also while somebody types into a field
}

/**
 * Does something at a key. No key reaches beneath a dialog: it acts only where this component lies on
 * top of everything. A key that somebody typed into a field is a letter.
 */
export function useKey(key: string | string[], act: (e: KeyboardEvent) => void, options: KeyOptions = {}) {
  const mine = inject(within, undefined)
  onKeyStroke(key, (e) => {
    if (e.defaultPrevented || e.isComposing || layers.at(-1) !== mine) return
    if ((e.ctrlKey || e.metaKey) !== !!options.ctrl || e.altKey !== !!options.alt) return
    if (!options.typing && typing(e)) return
    act(e)
  })
}
