<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { onKeyStroke } from '@vueuse/core'
import { has, signOut, who } from '../session'
import Keys from './Keys.vue'
import { typing } from '../use/keys'

const router = useRouter()
const words = ref('')
const field = ref<HTMLInputElement>()
const keys = ref(false)

const sections = [
  { to: '/today', name: 'Today', roles: [] },
  { to: '/library', name: 'Library', roles: [] },
  { to: '/review', name: 'Review', roles: ['author', 'reviewer', 'publisher'] },
  { to: '/flows', name: 'Flows', roles: [] },
  { to: '/handoffs', name: 'Handoffs', roles: ['agent'] },
  { to: '/outcomes', name: 'Outcomes', roles: ['analyst', 'publisher', 'administrator'] },
  { to: '/settings', name: 'Settings', roles: ['administrator'] },
]

function find() {
  router.push({ path: '/library', query: { words: words.value || undefined } })
}

async function leave() {
  await signOut()
  router.push('/sign-in')
}

onKeyStroke('/', (e) => {
  if (typing(e)) return
  e.preventDefault()
  field.value?.focus()
})
onKeyStroke('?', (e) => {
  if (!typing(e)) keys.value = true
})
</script>

<template>
  <header class="masthead">
    <RouterLink to="/today" class="mark">Hermeneus</RouterLink>
    <nav aria-label="Sections">
      <template v-for="s in sections" :key="s.to">
        <RouterLink v-if="!s.roles.length || has(...s.roles)" :to="s.to">{{ s.name }}</RouterLink>
      </template>
    </nav>
    <form class="find" role="search" aria-label="Find articles" @submit.prevent="find">
      <label class="hidden" for="find">Find articles</label>
      <input id="find" ref="field" v-model="words" placeholder="Find articles  /" maxlength="200" />
    </form>
    <div class="person">
      <a href="/help" target="_blank" rel="noopener">Help centre</a>
      <span :title="who?.roles.join(', ')">{{ who?.name }}</span>
      <button type="button" class="quiet" @click="leave">Sign out</button>
    </div>
    <Keys v-model:open="keys" />
  </header>
</template>

<style scoped>
.masthead {
  display: flex;
  align-items: center;
  gap: 1.4rem;
  height: 48px;
  padding: 0 1.25rem;
  background: var(--leaf);
  border-bottom: 1px solid var(--rule);
}
.mark {
  font: 600 1.15rem var(--text-face);
  color: var(--rubric);
  letter-spacing: 0.01em;
}
nav {
  display: flex;
  gap: 1.05rem;
}
nav a {
  color: var(--ink);
  padding: 0.75rem 0 0.7rem;
  border-bottom: 2px solid transparent;
}
nav a:hover {
  color: var(--rubric);
}
nav a.router-link-active {
  color: var(--rubric);
  border-color: var(--rubric);
}
.find {
  flex: 1;
  max-width: 22rem;
  margin-left: auto;
}
.find input {
  width: 100%;
  font: inherit;
  padding: 0.25rem 0.6rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--paper);
}
.person {
  display: flex;
  gap: 0.9rem;
  white-space: nowrap;
  color: var(--faded);
}
@media (max-width: 1150px) {
  .person a {
    display: none;
  }
}
</style>
