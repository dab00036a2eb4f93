import { Extension, Mark, mergeAttributes, Node, wrappingInputRule } from '@tiptap/core'
import { Link } from '@tiptap/extension-link'
import { TextSelection } from '@tiptap/pm/state'

declare module '@tiptap/core' {
  interface Commands<ReturnType> {
    callout: { toggleCallout: (kind: string) => ReturnType }
    expandable: { insertExpandable: () => ReturnType }
  }
}

/** A note, a caution or a danger beside the flow of the text. */
export const Callout = Node.create({
  name: 'callout',
  group: 'block',
  content: 'block+',
  defining: true,
  addAttributes: () => ({
    kind: {
      default: 'note',
      parseHTML: (e) => e.getAttribute('data-callout') ?? 'note',
      renderHTML: (a) => ({ 'data-callout': a.kind as string }),
    },
  }),
  parseHTML: () => [{ tag: 'aside' }],
  renderHTML: ({ HTMLAttributes }) => ['aside', HTMLAttributes, 0],
  addCommands() {
    return {
      toggleCallout:
        (kind) =>
        ({ commands, editor }) => {
          if (editor.isActive(this.name, { kind })) return commands.lift(this.name)
          if (editor.isActive(this.name)) return commands.updateAttributes(this.name, { kind })
          return commands.wrapIn(this.name, { kind })
        },
    }
  },
  addInputRules() {
    return [
      wrappingInputRule({
        find: /^!(note|caution|danger)\s$/,
        type: this.type,
        getAttributes: (match) => ({ kind: match[1] }),
      }),
    ]
  },
})

/** A part that readers open when they want it. */
export const Expandable = Node.create({
  name: 'expandable',
  group: 'block',
  content: 'expandableSummary block+',
  defining: true,
  isolating: true,
  parseHTML: () => [{ tag: 'details' }],
  renderHTML: () => ['details', 0],
  addNodeView: () => () => {
    const dom = document.createElement('details')
    dom.open = true
    // While it is written it stays open: a click in its first line puts the caret there.
    dom.addEventListener('click', (e) => (e.target as HTMLElement).closest('summary') && e.preventDefault())
    return { dom, contentDOM: dom, ignoreMutation: (m) => m.type === 'attributes' }
  },
  addCommands() {
    return {
      insertExpandable:
        () =>
        ({ chain }) =>
          chain()
            .insertContent({
              type: this.name,
              content: [{ type: 'expandableSummary' }, { type: 'paragraph' }],
            })
            .command(({ tr }) => {
              // The caret is in the paragraph now; what it is called comes first.
              const { $from } = tr.selection
              const at = $from.start(Math.max(1, $from.depth - 1)) + 1
              tr.setSelection(TextSelection.near(tr.doc.resolve(at)))
              return true
            })
            .run(),
    }
  },
})

export const ExpandableSummary = Node.create({
  name: 'expandableSummary',
  content: 'inline*',
  defining: true,
  selectable: false,
  parseHTML: () => [{ tag: 'summary' }],
  renderHTML: () => ['summary', 0],
  addKeyboardShortcuts() {
    return {
      Enter: ({ editor }) => {
        const { $from, empty } = editor.state.selection
        if (!empty || $from.parent.type.name !== this.name) return false
        return editor.commands.setTextSelection($from.after() + 1)
      },
    }
  },
})

/** A picture with its caption. */
export const Figure = Node.create({
  name: 'figure',
  group: 'block',
  content: 'inline*',
  draggable: true,
  isolating: true,
  addAttributes: () => ({ src: { default: '' }, alt: { default: '' } }),
  parseHTML: () => [
    {
      tag: 'figure',
      contentElement: 'figcaption',
      getAttrs: (e) => {
        const img = e.querySelector('img')
        return img ? { src: img.getAttribute('src'), alt: img.getAttribute('alt') ?? '' } : false
      },
    },
  ],
  renderHTML: ({ node }) => [
    'figure',
    ['img', { src: node.attrs.src as string, alt: node.attrs.alt as string }],
    ['figcaption', 0],
  ],
})

/** A film: kept here, or played from elsewhere once a reader asks for it. */
export const Film = Node.create({
  name: 'film',
  group: 'block',
  content: 'inline*',
  draggable: true,
  isolating: true,
  priority: 110,
  addAttributes: () => ({ src: { default: '' }, link: { default: '' } }),
  parseHTML: () => [
    {
      tag: 'figure',
      contentElement: 'figcaption',
      getAttrs: (e) => {
        const link = e.getAttribute('data-video')
        const src = e.querySelector('video')?.getAttribute('src')
        return link || src ? { link: link ?? '', src: src ?? '' } : false
      },
    },
  ],
  renderHTML: ({ node }) =>
    node.attrs.link
      ? ['figure', { 'data-video': node.attrs.link as string }, ['figcaption', 0]]
      : ['figure', ['video', { src: node.attrs.src as string, controls: '' }], ['figcaption', 0]],
})

const plainMark = (name: string) =>
  Mark.create({
    name,
    parseHTML: () => [{ tag: name }],
    renderHTML: ({ HTMLAttributes }) => [name, mergeAttributes(HTMLAttributes), 0],
  })

export const Kbd = plainMark('kbd')
export const Sub = plainMark('sub')
export const Sup = plainMark('sup')

/** Links, to attachments too: those say under which name the file is kept. */
export const OwnLink = Link.extend({
  addAttributes() {
    return { ...this.parent?.(), download: { default: null } }
  },
}).configure({
  openOnClick: false,
  // Only what was typed as an address: “…on the pole.Read…” is two sentences, no place.
  shouldAutoLink: (url) => /^https?:\/\//.test(url),
  HTMLAttributes: { target: null, rel: null },
})

/** Keeps the anchors that headings came with. */
export const Anchors = Extension.create({
  name: 'anchors',
  addGlobalAttributes: () => [
    {
      types: ['heading'],
      attributes: {
        id: {
          default: null,
          parseHTML: (e) => e.getAttribute('id'),
          renderHTML: (a) => (a.id ? { id: a.id as string } : {}),
        },
      },
    },
  ],
})
