<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { api, call, Unreachable, type Schemas } from '../../shared/api/client'
import { states } from '../../shared/words'
import { useKey } from '../shared/keys'
import MarkedWords from '../shared/MarkedWords.vue'

/** Finds articles of any state while one types, with the match shown. */
const router = useRouter()
const words = ref('')
const found = shallowRef<Schemas['Found'][]>([])
const at = ref(-1)
const open = ref(false)
const field = ref<HTMLInputElement>()
let turn = 0

watchDebounced(
  words,
  async (now) => {
    const mine = ++turn
    at.value = -1
    if (!now.trim()) {
      found.value = []
      return
    }
    try {
      const list = await call(api.GET('/api/staff/find', { params: { query: { words: now } } }))
      if (mine === turn) found.value = list
    } catch (e) {
      if (!(e instanceof Unreachable)) throw e
    }
  },
  { debounce: 90 },
)

function go(reference?: string) {
  open.value = false
  if (reference) void router.push(`/library/${reference}`)
  else void router.push({ path: '/library', query: { words: words.value || undefined } })
  words.value = ''
  leave()
}
/** What is typed next is meant for the page. */
function leave() {
  field.value?.blur()
  document.querySelector<HTMLElement>('#main')?.focus({ preventScroll: true })
}
function keys(e: KeyboardEvent) {
  if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
    e.preventDefault()
    at.value = Math.min(found.value.length - 1, Math.max(-1, at.value + (e.key === 'ArrowDown' ? 1 : -1)))
  } else if (e.key === 'Escape') {
    e.stopPropagation()
    open.value = false
    leave()
  }
}
useKey('/', (e) => {
  e.preventDefault()
  field.value?.select()
  field.value?.focus()
})
</script>

<template>
  <form class="find" role="search" aria-label="Find articles" @submit.prevent="go(found[at]?.reference)">
    <label class="hidden" for="find">Find articles</label>
    <input
      id="find"
      ref="field"
      v-model="words"
      placeholder="Find articles  /"
      maxlength="200"
      autocomplete="off"
      role="combobox"
      aria-autocomplete="list"
      aria-controls="found"
      :aria-expanded="open && found.length > 0"
      :aria-activedescendant="at >= 0 ? `found-${at}` : undefined"
      @focus="open = true"
      @blur="open = false"
      @keydown="keys"
    />
    <ul v-show="open && found.length" id="found" role="listbox" aria-label="Found" class="plainlist panel">
      <li
        v-for="(f, i) in found"
        :id="`found-${i}`"
        :key="f.reference"
        role="option"
        :aria-selected="i === at"
        @mousedown.prevent="go(f.reference)"
      >
        <MarkedWords :runs="f.title" class="name" />
        <span class="faded small"> {{ f.reference }} · {{ states[f.state] }} · {{ f.category }}</span>
        <MarkedWords v-if="f.match?.length" :runs="f.match" class="small match" />
      </li>
    </ul>
  </form>
</template>

<style scoped>
.find {
  flex: 1;
  max-width: 22rem;
  margin-left: auto;
  position: relative;
}
input {
  width: 100%;
  font: inherit;
  padding: 0.25rem 0.6rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--paper);
}
ul {
  position: absolute;
  z-index: 20;
  right: 0;
  width: 30rem;
  max-height: 70vh;
  overflow-y: auto;
  margin-top: 2px;
}
li {
  padding: 0.35rem 0.7rem;
  cursor: pointer;
}
li + li {
  border-top: 1px solid var(--rule);
}
li[aria-selected='true'],
li:hover {
  background: #f6efe1;
}
.name {
  font-family: var(--text-face);
}
li > .faded {
  margin-left: 0.4rem;
}
.match {
  display: block;
  color: var(--faded);
}
</style>
