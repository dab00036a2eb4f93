import { Image } from '@tiptap/extension-image'
import { TableKit } from '@tiptap/extension-table'
import { Placeholder } from '@tiptap/extensions'
import type { Node } from '@tiptap/pm/model'
import StarterKit from '@tiptap/starter-kit'
import type { Schemas } from '../../shared/api/client'
import {
  Anchors,
  Callout,
  Expandable,
  ExpandableSummary,
  Figure,
  Film,
  Kbd,
  OwnLink,
  Sub,
  Sup,
} from './nodes'

/** What a text can hold; core/article allows the same. */
export function extensions(sections: () => Schemas['Section'][]) {
  return [
    StarterKit.configure({
      heading: { levels: [2, 3, 4] },
      trailingNode: false, // opening an article must not change it
      link: false,
    }),
    OwnLink,
    Anchors,
    Callout,
    Expandable,
    ExpandableSummary,
    Film,
    Figure,
    Kbd,
    Sub,
    Sup,
    Image.configure({ inline: true }),
    TableKit.configure({ table: { resizable: false } }),
    Placeholder.configure({
      showOnlyCurrent: false,
      includeChildren: true,
      placeholder: ({ editor, node, pos }) => promptAt(editor.state.doc, node, pos, sections()),
    }),
  ]
}

/** What the template asks for in the empty line at pos; else a hint where one helps. */
function promptAt(doc: Node, node: Node, pos: number, sections: Schemas['Section'][]): string {
  if (node.type.name === 'expandableSummary') return 'What is inside?'
  if (node.type.name === 'figure' || node.type.name === 'film') return 'Caption'
  if (node.type.name !== 'paragraph') return ''
  let heading = ''
  let filled = false
  doc.descendants((n, at) => {
    if (at >= pos) return false
    if (n.type.name === 'heading' && n.attrs.level === 2) {
      heading = n.textContent.trim().toLowerCase()
      filled = false
      return false
    }
    if (n.isTextblock && n.content.size > 0) filled = true
    return true
  })
  if (filled) return ''
  const section = sections.find((s) => s.heading.trim().toLowerCase() === heading)
  if (section) return section.prompt + (section.required ? ' (required)' : '')
  return pos === 0 && doc.childCount === 1 ? 'Write the answer here. Begin with what to do.' : ''
}
