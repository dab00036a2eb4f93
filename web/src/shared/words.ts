/** The outcomes in their order, each with its mark, its word and its colour. */
export const outcomes = [
  {
    name: 'confirmed',
    mark: '●',
    word: 'Confirmed',
    colour: 'verdigris',
    means: 'the customer said that it helped',
  },
  {
    name: 'presumed',
    mark: '◐',
    word: 'Presumed',
    colour: 'moss',
    means: 'read, with no sign that it did not help',
  },
  {
    name: 'unanswered',
    mark: '○',
    word: 'Unanswered',
    colour: 'ash',
    means: 'nothing offered, nothing read, or it did not help',
  },
  {
    name: 'returned',
    mark: '↩',
    word: 'Returned',
    colour: 'ochre',
    means: 'seemed answered, but the customer contacted us within the return window',
  },
  { name: 'person', mark: '▲', word: 'Person', colour: 'slate', means: 'reached a person' },
] as const

export function outcomeOf(name: string) {
  return (
    outcomes.find((o) => o.name === name) ?? {
      name,
      mark: '·',
      word: setAside[name]?.word ?? 'Open',
      colour: 'faded',
      means: setAside[name]?.means ?? 'still going on',
    }
  )
}

/** What is in no rate, whenever it closed. */
export const setAside: Record<string, { word: string; means: string }> = {
  browsing: { word: 'Browsing', means: 'looked around without asking' },
  unseen: { word: 'Unseen', means: 'nothing shows that anybody looked: a script, a link preview' },
  unlikely: { word: 'Unlikely', means: 'of too many new askers from one network' },
}

export const states: Record<string, string> = {
  drafting: 'Being written',
  in_review: 'In review',
  sent_back: 'Sent back',
  approved: 'Approved',
  scheduled: 'Scheduled',
  published: 'Published',
}

export const channels: Record<string, string> = {
  help: 'Help centre',
  chat: 'Chat',
  form: 'Request form',
  mail: 'Mail',
  message: 'Messages',
  phone: 'Telephone',
}

export const kinds: Record<string, string> = {
  asked: 'Asked',
  offered: 'Was offered',
  opened: 'Opened',
  read: 'Read',
  told: 'Was told',
  came_back: 'Came back for more',
  helped: 'Said it helped',
  not_helped: 'Said it did not help',
  wanted_person: 'Wanted a person',
  handed_off: 'Passed to a person',
  requested: 'Sent a request',
  agent_answered: 'An agent answered',
}
