/** What an article can be, for choosing. */
export const articleKinds = [
  { value: 'how-to', label: 'How to do something' },
  { value: 'fix', label: 'Fix a problem' },
  { value: 'policy', label: 'Policy' },
  { value: 'reference', label: 'Reference' },
]
