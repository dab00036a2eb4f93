<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { may, signOut, who } from '../session'
import FindField from '../search/FindField.vue'
import Keys from './Keys.vue'
import { useKey } from './keys'
import { unread, watchNews } from '../notify/news'

const router = useRouter()
const route = useRoute()
const keys = ref(false)

const sections: { to: string; name: string; takes?: Parameters<typeof may>[0] }[] = [
  { to: '/today', name: 'Today' },
  { to: '/library', name: 'Library' },
  { to: '/review', name: 'Review', takes: 'see_reviews' },
  { to: '/flows', name: 'Flows' },
  { to: '/conversations', name: 'Conversations', takes: 'answer_customers' },
  { to: '/outcomes', name: 'Outcomes', takes: 'read_figures' },
  { to: '/settings', name: 'Settings', takes: 'administer' },
]

async function leave() {
  await signOut()
  router.push('/sign-in')
}

watchNews()

useKey('?', () => (keys.value = true))
</script>

<template>
  <header class="masthead">
    <RouterLink to="/today" class="mark">Hermeneus</RouterLink>
    <nav aria-label="Sections">
      <template v-for="s in sections" :key="s.to">
        <RouterLink
          v-if="!s.takes || may(s.takes)"
          :to="s.to"
          :class="{ here: `${route.path}/`.startsWith(`${s.to}/`) }"
          >{{ s.name }}</RouterLink
        >
      </template>
    </nav>
    <FindField />
    <div class="person">
      <RouterLink to="/news" :class="{ told: unread }"
        >News{{ unread ? ' ' : ''
        }}<template v-if="unread">
          <span class="number">{{ unread > 99 ? '99+' : unread }}</span><span class="hidden">
            unread</span
          ></template
        ></RouterLink
      >
      <a href="/help" target="_blank" rel="noopener">Help centre</a>
      <RouterLink to="/me" :title="who?.roles.join(', ')">{{ who?.name }}</RouterLink>
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
nav a.here {
  color: var(--rubric);
  border-color: var(--rubric);
}
.person {
  display: flex;
  gap: 0.9rem;
  white-space: nowrap;
  color: var(--faded);
}
.number {
  font-weight: 600;
}
@media (max-width: 1150px) {
  .person a[target] {
    display: none;
  }
}
</style>
