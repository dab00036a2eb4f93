import { message } from 'ant-design-vue'
import type { Editor } from '@tiptap/vue-3'
import { reactive } from 'vue'
import { keepAttachment, keepMedia } from '../shared/files'

/** What goes into a text besides words: pictures, films, attachments and links. */
export function useInsert(editor: () => Editor | undefined) {
  const picture = reactive({ open: false, src: '', alt: '', caption: '', fresh: true, captioned: true })

  function insertFiles(files: FileList | null | undefined): boolean {
    const list = [...(files ?? [])].filter((f) => /^(image|video)\//.test(f.type))
    list.forEach(insertMedia)
    return list.length > 0
  }

  async function insertMedia(file: File) {
    try {
      const kept = await keepMedia(file)
      if (kept.media_type.startsWith('video/')) {
        editor()
          ?.chain()
          .focus()
          .insertContent([{ type: 'film', attrs: { src: kept.path } }, { type: 'paragraph' }])
          .run()
        return
      }
      Object.assign(picture, {
        open: true,
        src: kept.path,
        alt: '',
        caption: '',
        fresh: true,
        captioned: true,
      })
    } catch (e) {
      message.error((e as Error).message, 6)
    }
  }

  async function attach(file: File) {
    try {
      const kept = await keepAttachment(file)
      const mark = { type: 'link', attrs: { href: kept.path, download: file.name } }
      editor()
        ?.chain()
        .focus()
        .insertContent({ type: 'text', text: file.name, marks: [mark] })
        .run()
    } catch (e) {
      message.error((e as Error).message, 6)
    }
  }

  function describe() {
    const e = editor()
    if (!e) return
    const captioned = e.isActive('figure')
    const is = e.getAttributes(captioned ? 'figure' : 'image')
    const caption = captioned ? e.state.selection.$from.parent.textContent : ''
    Object.assign(picture, {
      open: true,
      src: is.src,
      alt: is.alt ?? '',
      caption,
      fresh: false,
      captioned: false,
    })
  }

  function described(alt: string, caption: string) {
    const chain = editor()?.chain().focus()
    if (picture.fresh) {
      const content = caption ? [{ type: 'text', text: caption }] : []
      chain
        ?.insertContent([
          { type: 'figure', attrs: { src: picture.src, alt }, content },
          { type: 'paragraph' },
        ])
        .run()
    } else if (editor()?.isActive('figure')) chain?.updateAttributes('figure', { alt }).run()
    else chain?.updateAttributes('image', { alt }).run()
  }

  function link(address: string, film: boolean) {
    editor()?.view.focus() // at once: the editor's own focus waits for the next drawing
    const chain = editor()?.chain().focus()
    if (film) {
      if (address.startsWith('https://'))
        chain?.insertContent([{ type: 'film', attrs: { link: address } }, { type: 'paragraph' }]).run()
      else message.error('A film is linked by an address that begins with https://', 6)
      return
    }
    chain?.extendMarkRange('link')
    if (!address) chain?.unsetLink().run()
    else if (editor()?.state.selection.empty && !editor()?.isActive('link'))
      chain
        ?.insertContent({ type: 'text', text: address, marks: [{ type: 'link', attrs: { href: address } }] })
        .run()
    else chain?.setLink({ href: address }).run()
  }

  return { picture, insertFiles, insertMedia, attach, describe, described, link }
}
