import type { Editor } from '@tiptap/core'

export interface Tool {
  name: string
  on?: () => boolean
  run: () => void
  hint?: string
}

/** The commands of the toolbar, in groups: marks, blocks, and what depends on where the caret is. */
export function toolsFor(
  editor: Editor,
  ask: { link: () => void; picture: () => void; film: () => void; file: () => void },
) {
  const run = () => editor.chain().focus()
  const block = (
    name: string,
    type: string,
    go: () => boolean,
    attributes?: object,
    hint?: string,
  ): Tool => ({
    name,
    on: () => editor.isActive(type, attributes),
    run: () => void go(),
    hint,
  })
  const marks: Tool[] = [
    block('Bold', 'bold', () => run().toggleBold().run(), undefined, 'Ctrl+B or **text**'),
    block('Italic', 'italic', () => run().toggleItalic().run(), undefined, 'Ctrl+I or *text*'),
    block('Code', 'code', () => run().toggleCode().run(), undefined, '`text`'),
    block('Key', 'kbd', () => run().toggleMark('kbd').run(), undefined, 'A key to press'),
    { name: 'Link', on: () => editor.isActive('link'), run: ask.link, hint: 'Ctrl+K' },
  ]
  const blocks: Tool[] = [
    block(
      'Heading',
      'heading',
      () => run().toggleHeading({ level: 2 }).run(),
      { level: 2 },
      '## and a space',
    ),
    block(
      'Subheading',
      'heading',
      () => run().toggleHeading({ level: 3 }).run(),
      { level: 3 },
      '### and a space',
    ),
    block('Steps', 'orderedList', () => run().toggleOrderedList().run(), undefined, '1. and a space'),
    block('List', 'bulletList', () => run().toggleBulletList().run(), undefined, '- and a space'),
    block('Quote', 'blockquote', () => run().toggleBlockquote().run(), undefined, '> and a space'),
    block('Code block', 'codeBlock', () => run().toggleCodeBlock().run(), undefined, '``` and a space'),
    block('Table', 'table', () => run().insertTable({ rows: 3, cols: 2, withHeaderRow: true }).run()),
    block('Note', 'callout', () => run().toggleCallout('note').run(), { kind: 'note' }, '!note and a space'),
    block(
      'Caution',
      'callout',
      () => run().toggleCallout('caution').run(),
      { kind: 'caution' },
      '!caution and a space',
    ),
    block(
      'Danger',
      'callout',
      () => run().toggleCallout('danger').run(),
      { kind: 'danger' },
      '!danger and a space',
    ),
    block('Expandable', 'expandable', () => run().insertExpandable().run()),
    { name: 'Picture', run: ask.picture },
    { name: 'Film', run: ask.film },
    { name: 'Attachment', run: ask.file },
  ]
  return { marks, blocks }
}

export function tableTools(editor: Editor): Tool[] {
  const run = () => editor.chain().focus()
  return [
    { name: 'Row below', run: () => run().addRowAfter().run() },
    { name: 'Column right', run: () => run().addColumnAfter().run() },
    { name: 'Heading row', run: () => run().toggleHeaderRow().run() },
    { name: 'Remove row', run: () => run().deleteRow().run() },
    { name: 'Remove column', run: () => run().deleteColumn().run() },
    { name: 'Remove table', run: () => run().deleteTable().run() },
  ]
}
