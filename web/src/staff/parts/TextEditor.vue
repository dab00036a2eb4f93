<script setup lang="ts">
import { message } from 'ant-design-vue'
import { Image } from '@tiptap/extension-image'
import { TableKit } from '@tiptap/extension-table'
import { Placeholder } from '@tiptap/extensions'
import StarterKit from '@tiptap/starter-kit'
import { EditorContent, useEditor } from '@tiptap/vue-3'
import { ref, watch } from 'vue'
import LinkField from './LinkField.vue'
import { keepPicture } from '../use/pictures'

/** The text of an article, edited in place. */
const props = defineProps<{ editable: boolean }>()
const body = defineModel<string>({ required: true })
const linking = ref(false)
const chooser = ref<HTMLInputElement>()

const editor = useEditor({
  content: body.value,
  editable: props.editable,
  extensions: [
    StarterKit.configure({
      heading: { levels: [2, 3, 4] },
      trailingNode: false, // opening an article must not change it
      link: { openOnClick: false, HTMLAttributes: { target: null, rel: null } },
    }),
    Image.configure({ inline: true }),
    TableKit.configure({ table: { resizable: false } }),
    Placeholder.configure({ placeholder: 'Write the answer here. Begin with what to do.' }),
  ],
  editorProps: {
    attributes: {
      class: 'prose',
      'aria-label': 'Text of the article',
      role: 'textbox',
      'aria-multiline': 'true',
    },
    handlePaste: (_view, event) => insertFiles(event.clipboardData?.files),
    handleDrop: (_view, event) => insertFiles((event as DragEvent).dataTransfer?.files),
    handleKeyDown: (_view, event) => {
      if (!(event.ctrlKey || event.metaKey) || event.key !== 'k') return false
      event.preventDefault()
      linking.value = true
      return true
    },
  },
  onUpdate: ({ editor }) => {
    body.value = editor.isEmpty ? '' : editor.getHTML()
  },
})

watch(body, (now) => {
  if (editor.value && now !== editor.value.getHTML() && !(now === '' && editor.value.isEmpty)) {
    editor.value.commands.setContent(now, { emitUpdate: false })
  }
})
watch(
  () => props.editable,
  (now) => editor.value?.setEditable(now),
)

function insertFiles(files: FileList | null | undefined): boolean {
  const pictures = [...(files ?? [])].filter((f) => f.type.startsWith('image/'))
  pictures.forEach(insertPicture)
  return pictures.length > 0
}

async function insertPicture(file: File) {
  try {
    const kept = await keepPicture(file)
    const alt = file.name.replace(/\.\w+$/, '').replace(/[-_]+/g, ' ')
    editor.value?.chain().focus().setImage({ src: kept.path, alt }).run()
  } catch (e) {
    message.error((e as Error).message, 6)
  }
}

function choose(event: Event) {
  const input = event.target as HTMLInputElement
  insertFiles(input.files)
  input.value = ''
}

function link(address: string) {
  linking.value = false
  const chain = editor.value?.chain().focus().extendMarkRange('link')
  if (address) chain?.setLink({ href: address }).run()
  else chain?.unsetLink().run()
}

function describe() {
  const alt = window.prompt(
    'What does the picture show? (Read out to people who cannot see it)',
    editor.value?.getAttributes('image').alt ?? '',
  )
  if (alt !== null) editor.value?.chain().focus().updateAttributes('image', { alt }).run()
}

const tools = [
  {
    name: 'Heading',
    on: () => editor.value?.isActive('heading', { level: 2 }),
    run: () => editor.value?.chain().focus().toggleHeading({ level: 2 }).run(),
  },
  {
    name: 'Subheading',
    on: () => editor.value?.isActive('heading', { level: 3 }),
    run: () => editor.value?.chain().focus().toggleHeading({ level: 3 }).run(),
  },
  {
    name: 'Bold',
    on: () => editor.value?.isActive('bold'),
    run: () => editor.value?.chain().focus().toggleBold().run(),
  },
  {
    name: 'Italic',
    on: () => editor.value?.isActive('italic'),
    run: () => editor.value?.chain().focus().toggleItalic().run(),
  },
  {
    name: 'Steps',
    on: () => editor.value?.isActive('orderedList'),
    run: () => editor.value?.chain().focus().toggleOrderedList().run(),
  },
  {
    name: 'List',
    on: () => editor.value?.isActive('bulletList'),
    run: () => editor.value?.chain().focus().toggleBulletList().run(),
  },
  {
    name: 'Quote',
    on: () => editor.value?.isActive('blockquote'),
    run: () => editor.value?.chain().focus().toggleBlockquote().run(),
  },
  {
    name: 'Table',
    on: () => editor.value?.isActive('table'),
    run: () => editor.value?.chain().focus().insertTable({ rows: 3, cols: 2, withHeaderRow: true }).run(),
  },
  { name: 'Link', on: () => editor.value?.isActive('link'), run: () => (linking.value = true) },
  { name: 'Picture', on: () => false, run: () => chooser.value?.click() },
]
const tableTools = [
  { name: 'Row below', run: () => editor.value?.chain().focus().addRowAfter().run() },
  { name: 'Column right', run: () => editor.value?.chain().focus().addColumnAfter().run() },
  { name: 'Remove row', run: () => editor.value?.chain().focus().deleteRow().run() },
  { name: 'Remove column', run: () => editor.value?.chain().focus().deleteColumn().run() },
  { name: 'Remove table', run: () => editor.value?.chain().focus().deleteTable().run() },
]
</script>

<template>
  <div class="editor">
    <div v-if="editable && editor" class="tools" role="toolbar" aria-label="Formatting">
      <button v-for="t in tools" :key="t.name" type="button" :aria-pressed="!!t.on()" @click="t.run()">
        {{ t.name }}
      </button>
      <button type="button" :disabled="!editor.can().undo()" @click="editor.chain().focus().undo().run()">
        Undo
      </button>
      <button type="button" :disabled="!editor.can().redo()" @click="editor.chain().focus().redo().run()">
        Redo
      </button>
      <span v-if="editor.isActive('table')" class="more">
        <button v-for="t in tableTools" :key="t.name" type="button" @click="t.run()">{{ t.name }}</button>
      </span>
      <span v-if="editor.isActive('image')" class="more">
        <button type="button" @click="describe">Describe the picture</button>
      </span>
      <input
        ref="chooser"
        type="file"
        accept="image/png,image/jpeg,image/gif,image/webp"
        hidden
        multiple
        @change="choose"
      />
    </div>
    <LinkField
      v-if="linking"
      :address="editor?.getAttributes('link').href ?? ''"
      @done="link"
      @cancel="linking = false"
    />
    <EditorContent :editor="editor" />
  </div>
</template>

<style scoped>
.tools {
  position: sticky;
  top: -1.4rem;
  z-index: 2;
  display: flex;
  flex-wrap: wrap;
  gap: 0.1rem;
  margin: 0 -0.45rem 0.9rem;
  padding: 0.3rem 0;
  background: var(--paper);
  border-bottom: 1px solid var(--rule);
}
.tools button {
  font: inherit;
  font-size: 0.9rem;
  color: var(--faded);
  background: none;
  border: 0;
  border-radius: 4px;
  padding: 0.1rem 0.45rem;
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
  opacity: 0.45;
  cursor: default;
}
.more {
  flex-basis: 100%;
}
.editor :deep(.prose:focus) {
  outline: none;
}
.editor :deep(.prose) {
  min-height: 16rem;
}
.editor :deep(.ProseMirror-selectednode) {
  outline: 2px solid var(--rubric);
}
.editor :deep(p.is-editor-empty:first-child::before) {
  content: attr(data-placeholder);
  color: #6b7078;
  float: left;
  height: 0;
  pointer-events: none;
}
</style>
