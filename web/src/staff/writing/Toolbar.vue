<script setup lang="ts">
import type { Editor } from '@tiptap/core'
import { computed } from 'vue'
import { tableTools, toolsFor, type Tool } from './tools'

/** The ways to shape a text, as words in two rows. */
const props = defineProps<{ editor: Editor }>()
const emit = defineEmits<{ link: []; picture: []; film: []; file: []; describe: []; source: [] }>()
const tools = computed(() =>
  toolsFor(props.editor, {
    link: () => emit('link'),
    picture: () => emit('picture'),
    film: () => emit('film'),
    file: () => emit('file'),
  }),
)
const more = computed<Tool[]>(() => {
  const { editor } = props
  return [
    ...(editor.isActive('table') ? tableTools(editor) : []),
    ...(editor.isActive('figure') || editor.isActive('image')
      ? [{ name: 'Describe the picture', run: () => emit('describe') }]
      : []),
    ...(['figure', 'film', 'expandable', 'callout'] as const)
      .filter((t) => editor.isActive(t))
      .slice(0, 1)
      .map((t) => ({ name: 'Remove this part', run: () => editor.chain().focus().deleteNode(t).run() })),
  ]
})
</script>

<template>
  <div class="tools" role="toolbar" aria-label="Formatting">
    <button
      v-for="t in tools.marks"
      :key="t.name"
      type="button"
      :title="t.hint"
      :aria-pressed="!!t.on?.()"
      @click="t.run()"
    >
      {{ t.name }}
    </button>
    <span class="gap" />
    <button
      type="button"
      :disabled="!editor.can().undo()"
      title="Ctrl+Z"
      @click="editor.chain().focus().undo().run()"
    >
      Undo
    </button>
    <button
      type="button"
      :disabled="!editor.can().redo()"
      title="Ctrl+Shift+Z"
      @click="editor.chain().focus().redo().run()"
    >
      Redo
    </button>
    <button type="button" class="end" @click="emit('source')">Source</button>
    <span class="line" />
    <button
      v-for="t in tools.blocks"
      :key="t.name"
      type="button"
      :title="t.hint"
      :aria-pressed="!!t.on?.()"
      @click="t.run()"
    >
      {{ t.name }}
    </button>
    <span v-if="more.length" class="line more">
      <button v-for="t in more" :key="t.name" type="button" @click="t.run()">{{ t.name }}</button>
    </span>
  </div>
</template>

<style scoped>
.tools {
  position: sticky;
  top: 0;
  z-index: 2;
  display: flex;
  flex-wrap: wrap;
  gap: 0.05rem;
  margin: 0 -0.4rem 0.9rem;
  padding: 0.3rem 0;
  background: var(--paper);
  border-bottom: 1px solid var(--rule);
}
.line {
  flex-basis: 100%;
}
.gap {
  width: 1rem;
}
.end {
  margin-left: auto;
}
.tools button {
  font: inherit;
  font-size: 0.87rem;
  color: var(--faded);
  background: none;
  border: 0;
  border-radius: 4px;
  padding: 0.1rem 0.4rem;
  cursor: pointer;
}
.tools button:hover:not(:disabled) {
  color: var(--rubric);
}
.tools button[aria-pressed='true'] {
  color: var(--rubric);
  background: #f3ead8;
}
.tools button:disabled {
  color: #a5a08f;
  cursor: default;
}
.more {
  border-top: 1px dotted var(--rule);
  padding-top: 0.15rem;
}
</style>
