<script setup lang="ts">
import { EditorContent, useEditor } from '@tiptap/vue-3'
import { nextTick, onBeforeUnmount, ref, watch } from 'vue'
import type { Schemas } from '../../shared/api/client'
import { extensions } from './extensions'
import LinkField from './LinkField.vue'
import { useInsert } from './insert'
import { cleanPasted } from './paste'
import PictureDialog from './PictureDialog.vue'
import SourceView from './SourceView.vue'
import Toolbar from './Toolbar.vue'

/** The text of an article, edited in place. */
const props = defineProps<{ editable: boolean; sections: Schemas['Section'][]; language?: string }>()
const body = defineModel<string>({ required: true })
const emit = defineEmits<{ writing: []; drawn: [] }>()
const asking = ref<'' | 'link' | 'film' | 'source'>('')
const mediaChooser = ref<HTMLInputElement>()
const fileChooser = ref<HTMLInputElement>()

let waiting: ReturnType<typeof setTimeout> | undefined
let given = body.value // what the model was last given or gave

/** Hands the text over. In long texts that waits for a pause, so that no key is slow. */
function later() {
  clearTimeout(waiting)
  const size = editor.value?.state.doc.content.size ?? 0
  if (size < 20_000) flush()
  else waiting = setTimeout(flush, 350)
}
function flush() {
  clearTimeout(waiting)
  waiting = undefined
  const e = editor.value
  if (!e) return
  given = e.isEmpty ? '' : e.getHTML()
  body.value = given
}
const settle = () => waiting && flush()
/** Puts the writer into the first empty line, or to the beginning where there is none. */
function begin() {
  let at: number | undefined
  editor.value?.state.doc.descendants((node, pos) => {
    if (at === undefined && node.type.name === 'paragraph' && !node.content.size) at = pos + 1
    return at === undefined
  })
  editor.value?.commands.focus(at ?? 'start')
}
defineExpose({ flush: settle, begin })
onBeforeUnmount(settle)

const editor = useEditor({
  content: body.value,
  editable: props.editable,
  extensions: extensions(() => props.sections),
  editorProps: {
    attributes: {
      class: 'prose',
      'aria-label': 'Text of the article',
      role: 'textbox',
      'aria-multiline': 'true',
      ...(props.language ? { lang: props.language } : {}),
    },
    transformPastedHTML: cleanPasted,
    handlePaste: (_view, event) => insertFiles(event.clipboardData?.files),
    handleDrop: (_view, event) => insertFiles((event as DragEvent).dataTransfer?.files),
    handleKeyDown: (_view, event) => {
      if (event.key === 'Escape') {
        event.preventDefault()
        document.querySelector<HTMLElement>('#main')?.focus({ preventScroll: true })
        return true
      }
      if (!(event.ctrlKey || event.metaKey) || event.key !== 'k') return false
      event.preventDefault()
      asking.value = 'link'
      return true
    },
  },
  onFocus: () => emit('writing'),
  onUpdate: () => {
    emit('writing')
    later()
  },
  onCreate: () => emit('drawn'),
})

const {
  picture,
  insertFiles,
  insertMedia,
  attach,
  describe,
  described,
  link: insertLink,
} = useInsert(() => editor.value)
function link(address: string) {
  const film = asking.value === 'film'
  asking.value = ''
  insertLink(address, film)
}

watch(body, (now) => {
  const e = editor.value
  if (!e || now === given) return
  given = now
  clearTimeout(waiting)
  waiting = undefined
  if (now !== (e.isEmpty ? '' : e.getHTML())) e.commands.setContent(now, { emitUpdate: false })
  emit('drawn')
})
watch(
  () => props.editable,
  (now) => editor.value?.setEditable(now, false),
)

function choose(event: Event, take: (f: File) => void) {
  const input = event.target as HTMLInputElement
  ;[...(input.files ?? [])].forEach(take)
  input.value = ''
}

/** Goes on in the text at once: the next key must find it, before anything is drawn anew. */
async function goOn() {
  const hidden = asking.value === 'source'
  asking.value = ''
  if (hidden) await nextTick()
  editor.value?.view.focus()
}
function openSource() {
  settle()
  asking.value = 'source'
}
function takeSource(html: string) {
  asking.value = ''
  editor.value?.chain().focus().setContent(html, { emitUpdate: true }).run()
}
</script>

<template>
  <div class="editor">
    <Toolbar
      v-if="editable && editor && asking !== 'source'"
      :editor="editor"
      @link="asking = 'link'"
      @film="asking = 'film'"
      @picture="mediaChooser?.click()"
      @file="fileChooser?.click()"
      @describe="describe"
      @source="openSource"
    />
    <input
      ref="mediaChooser"
      type="file"
      aria-label="Picture or film"
      accept="image/png,image/jpeg,image/gif,image/webp,video/mp4,video/webm"
      hidden
      multiple
      @change="(e) => choose(e, insertMedia)"
    />
    <input ref="fileChooser" type="file" aria-label="Attachment" hidden @change="(e) => choose(e, attach)" />
    <LinkField
      v-if="asking === 'link' || asking === 'film'"
      :address="asking === 'link' ? (editor?.getAttributes('link').href ?? '') : ''"
      :film="asking === 'film'"
      @done="link"
      @cancel="goOn"
    />
    <SourceView
      v-if="asking === 'source'"
      :body="body"
      :editable="editable"
      @take="takeSource"
      @close="goOn"
    />
    <EditorContent v-show="asking !== 'source'" :editor="editor" />
    <PictureDialog
      v-model:open="picture.open"
      :src="picture.src"
      :alt="picture.alt"
      :caption="picture.caption"
      :with-caption="picture.captioned"
      @done="described"
    />
  </div>
</template>

<style scoped>
.editor :deep(.prose:focus) {
  outline: none;
}
.editor :deep(.prose) {
  min-height: 16rem;
}
.editor :deep(.ProseMirror-selectednode) {
  outline: 2px solid var(--rubric);
}
.editor :deep(.is-empty::before) {
  content: attr(data-placeholder);
  color: #6b7078;
  float: left;
  height: 0;
  pointer-events: none;
}
</style>
