/** Every key of the staff interface, and what it does. */
export const keyList = [
  ['/', 'Find articles'],
  ['?', 'This list'],
  ['n', 'New article (in the library)'],
  ['j  k', 'Next, previous line, comment or answer: it is marked'],
  ['Enter', 'Open the marked line'],
  ['x', 'Select the marked line'],
  ['Alt+↑ ↓', 'Move the marked line, or the category (Alt+← → out of and into another)'],
  ['## - 1. > !note', 'A heading, a list, steps, a quote, a callout (at the start of a line)'],
  ['c', 'Comment on the marked words (in a review, or outside the text)'],
  ['a', 'Take the words that the marked comment suggests into the text'],
  [
    't',
    'Still true: of the marked line, or twice in an article. In a question: the marked answer answered it',
  ],
  ['Ctrl+S', 'Save now (it is saved anyway)'],
  ['Ctrl+K', 'Link (while writing); insert an article (in a reply)'],
  ['Ctrl+Enter', 'Send to review; approve; send a reply'],
  ['Esc', 'Out of the text, the dialog, the article'],
] as const
