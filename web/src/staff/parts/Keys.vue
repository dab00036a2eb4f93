<script setup lang="ts">
import { Modal } from 'ant-design-vue'

const open = defineModel<boolean>('open', { required: true })

const keys = [
  ['/', 'Find articles'],
  ['?', 'This list'],
  ['n', 'New article (in the library)'],
  ['j  k', 'Next, previous line of a list'],
  ['Enter', 'Open the line'],
  ['x', 'Select the line'],
  ['Alt+↑ ↓', 'Move the line, or the category (Alt+← → out of and into another)'],
  ['## - 1. > !note', 'A heading, a list, steps, a quote, a callout (at the start of a line)'],
  ['c', 'Comment on the marked words (in a review, or outside the text)'],
  ['a', 'Take the suggested words into the text'],
  ['t', 'Still true (outside the text, and in lists); this answered it (in a question)'],
  ['Ctrl+S', 'Save now (it is saved anyway)'],
  ['Ctrl+K', 'Link (while writing); insert an article (in a reply)'],
  ['Ctrl+Enter', 'Send to review; approve; send a reply'],
  ['Esc', 'Back out'],
]
</script>

<template>
  <Modal v-model:open="open" title="Keys" :footer="null" :width="460">
    <dl class="keys">
      <template v-for="[key, does] in keys" :key="key">
        <dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ does }}</dd>
      </template>
    </dl>
  </Modal>
</template>

<style scoped>
.keys {
  display: grid;
  grid-template-columns: 7rem 1fr;
  gap: 0.4rem 1rem;
  margin: 0;
}
dd {
  margin: 0;
}
kbd {
  font: inherit;
  color: var(--rubric);
}
</style>
