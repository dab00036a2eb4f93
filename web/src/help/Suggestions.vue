<script setup lang="ts">
import { onMounted, onUnmounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'

/** Completes what is typed into a search field of the page: a list under it, by keys or mouse. */
const props = defineProps<{ field: HTMLInputElement }>()

interface Suggestion {
  text: string
  address: string
  asked: boolean
}

const { t } = useI18n()
const list = ref<Suggestion[]>([])
const at = ref(-1)
const open = ref(false)
let turn = 0
let timer: ReturnType<typeof setTimeout> | undefined

function later() {
  clearTimeout(timer)
  timer = setTimeout(ask, 90)
}

async function ask() {
  const mine = ++turn
  const typed = props.field.value.trim()
  if (!typed || typed.length > 200) return show([])
  try {
    const answer = await fetch(`/api/help/suggestions?q=${encodeURIComponent(typed)}`)
    if (answer.ok && mine === turn) show((await answer.json()) as Suggestion[])
  } catch {
    // Suggestions are a help; the search works without them.
  }
}

function show(found: Suggestion[]) {
  list.value = found
  at.value = -1
  set(found.length > 0 && document.activeElement === props.field)
}

function set(now: boolean) {
  open.value = now
  props.field.setAttribute('aria-expanded', String(now))
  mark()
}

function mark() {
  if (open.value && at.value >= 0) props.field.setAttribute('aria-activedescendant', `suggestion-${at.value}`)
  else props.field.removeAttribute('aria-activedescendant')
}

function key(e: KeyboardEvent) {
  if (e.key === 'Escape' && open.value) {
    e.preventDefault()
    set(false)
  } else if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
    if (!list.value.length) return
    e.preventDefault()
    const step = e.key === 'ArrowDown' ? 1 : -1
    const n = list.value.length + 1 // with the field itself
    at.value = ((at.value + 1 + step + n) % n) - 1
    set(true)
  } else if (e.key === 'Enter' && open.value && at.value >= 0) {
    const chosen = list.value[at.value]
    if (!chosen) return
    e.preventDefault()
    go(chosen)
  }
}

const go = (s: Suggestion) => location.assign(s.address)
const close = () => setTimeout(() => set(false), 150)

onMounted(() => {
  const field = props.field
  for (const [name, value] of Object.entries({
    role: 'combobox',
    'aria-autocomplete': 'list',
    'aria-controls': 'suggestions',
    'aria-expanded': 'false',
  }))
    field.setAttribute(name, value)
  field.addEventListener('input', later)
  field.addEventListener('keydown', key)
  field.addEventListener('blur', close)
  if (field.value && document.activeElement === field && !field.defaultValue) later()
})
onUnmounted(() => {
  props.field.removeEventListener('input', later)
  props.field.removeEventListener('keydown', key)
  props.field.removeEventListener('blur', close)
})
</script>

<template>
  <ul v-show="open" id="suggestions" role="listbox" :aria-label="t('search.suggestions')">
    <li
      v-for="(s, i) in list"
      :id="`suggestion-${i}`"
      :key="s.address"
      role="option"
      :aria-selected="i === at"
      :class="{ at: i === at }"
      @mousedown.prevent
      @mousemove="at = i"
      @click="go(s)"
    >
      <span class="text">{{ s.text }}</span>
      <span v-if="s.asked" class="in">{{ t('search.asked') }}</span>
    </li>
  </ul>
  <p class="hidden" role="status">{{ open ? t('search.suggested', list.length) : '' }}</p>
</template>
