<script setup lang="ts">
import { autocompletion, completionKeymap } from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { codeFolding, foldKeymap } from '@codemirror/language'
import { highlightSelectionMatches, search, searchKeymap } from '@codemirror/search'
import { Compartment, EditorState, StateEffect, StateField } from '@codemirror/state'
import {
  Decoration,
  EditorView,
  drawSelection,
  keymap,
  placeholder,
  type DecorationSet,
} from '@codemirror/view'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { folding, goTo, scriptKeys } from './scriptKeys'
import { scriptLook } from './scriptLook'
import { scriptTitles, titled } from './scriptTitles'
import { scriptWords, type Named } from './scriptWords'

/** A script, typed as an outline is: one turn a line, what follows from it alone beneath. */
const props = defineProps<{
  source: string
  editable: boolean
  faults: Schemas['Fault'][]
  articles: Schemas['ShownTitle'][]
  named: Named
}>()
const emit = defineEmits<{ typed: [source: string]; line: [line: number]; rename: [turn: string] }>()

const place = ref<HTMLElement>()
let view: EditorView | undefined
const writable = new Compartment()

const marked = StateEffect.define<Schemas['Fault'][]>()
const faultLines = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(set, tr) {
    for (const e of tr.effects) if (e.is(marked)) return mark(tr.state, e.value)
    return set.map(tr.changes)
  },
  provide: (f) => EditorView.decorations.from(f),
})

function mark(state: EditorState, faults: Schemas['Fault'][]): DecorationSet {
  const worst = new Map<number, Schemas['Fault']>()
  for (const f of faults) {
    const line = Math.min(f.line ?? 1, state.doc.lines)
    if (worst.get(line)?.level !== 'error') worst.set(line, f)
  }
  return Decoration.set(
    [...worst].map(([n, f]) =>
      Decoration.line({ class: `script-fault ${f.level}`, attributes: { title: f.message } }).range(
        state.doc.line(n).from,
      ),
    ),
    true,
  )
}

const access = () => [EditorState.readOnly.of(!props.editable), EditorView.editable.of(props.editable)]

onMounted(() => {
  if (!place.value) return
  view = new EditorView({
    parent: place.value,
    doc: props.source,
    extensions: [
      history(),
      drawSelection(),
      codeFolding({ placeholderText: '…' }),
      folding,
      search({ top: true }),
      highlightSelectionMatches(),
      autocompletion({ override: [scriptWords(props.named)], icons: false, maxRenderedOptions: 40 }),
      keymap.of([
        ...completionKeymap,
        ...scriptKeys((turn) => emit('rename', turn)),
        ...searchKeymap.filter((k) => k.key !== 'F2'),
        ...foldKeymap,
        ...historyKeymap,
        ...defaultKeymap.filter((k) => k.key !== 'Mod-Enter'),
      ]),
      EditorView.lineWrapping,
      EditorView.contentAttributes.of({ 'aria-label': 'The script', spellcheck: 'true', tabindex: '0' }),
      placeholder('say Hello, and welcome. I am a bot.'),
      scriptLook,
      scriptTitles,
      faultLines,
      writable.of(access()),
      EditorView.updateListener.of((u) => {
        if (u.docChanged && u.transactions.some((t) => !t.annotation(outside)))
          emit('typed', u.state.doc.toString())
        if (u.selectionSet || u.docChanged)
          emit('line', u.state.doc.lineAt(u.state.selection.main.head).number)
      }),
    ],
  })
  view.dispatch({ effects: [marked.of(props.faults), titled.of(props.articles)] })
})
onBeforeUnmount(() => view?.destroy())

watch(
  () => props.editable,
  () => view?.dispatch({ effects: writable.reconfigure(access()) }),
)
watch(
  () => props.articles,
  (articles) => view?.dispatch({ effects: titled.of(articles) }),
)
watch(
  () => props.faults,
  (faults) => view?.dispatch({ effects: marked.of(faults) }),
)
watch(
  () => props.source,
  (now) => view && now !== view.state.doc.toString() && put(now, true),
)

/** Puts another text in the place of the present one: only what differs is changed, and it can be undone. */
function put(text: string, quiet = false) {
  if (!view) return
  const old = view.state.doc.toString()
  let from = 0
  while (from < old.length && from < text.length && old[from] === text[from]) from++
  let end = 0
  while (end < old.length - from && end < text.length - from && old.at(-1 - end) === text.at(-1 - end)) end++
  view.dispatch({
    changes: { from, to: old.length - end, insert: text.slice(from, text.length - end) },
    ...(quiet ? { annotations: outside.of(true) } : {}),
  })
}

defineExpose({
  focus: () => view?.focus(),
  go: (line: number) => {
    if (!view) return
    goTo(view, line)
    view.focus()
  },
  put: (text: string) => put(text),
  line: () => (view ? view.state.doc.lineAt(view.state.selection.main.head).number : 1),
})
</script>

<script lang="ts">
import { Annotation } from '@codemirror/state'

/** Marks a change that nobody typed here. */
const outside = Annotation.define<boolean>()
</script>

<template>
  <div ref="place" class="script" />
</template>

<style src="./script.css"></style>
