<script setup lang="ts">
import { Button, Pagination } from 'ant-design-vue'
import { onKeyStroke } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import { ago, counted, exact } from '../../shared/format'
import { audiences, states } from '../../shared/words'
import Failed from '../parts/Failed.vue'
import Frame from '../parts/Frame.vue'
import NewArticle from '../parts/NewArticle.vue'
import OutcomeBar from '../parts/OutcomeBar.vue'
import Choice from '../parts/Choice.vue'
import CategoryTree from '../parts/CategoryTree.vue'
import { has } from '../session'
import { typing } from '../use/keys'
import { useLoad } from '../use/load'

const route = useRoute()
const router = useRouter()
const creating = ref(false)
const at = ref(-1)

const category = computed(() => Number(route.query.category) || 0)
const state = computed(() => (route.query.state as 'drafting' | undefined) || undefined)
const words = computed(() => (route.query.words as string | undefined) || undefined)
const page = computed(() => Number(route.query.page) || 1)

const tree = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/categories')),
)
const {
  value: articles,
  error,
  reload,
} = useLoad(
  () => [category.value, state.value, words.value, page.value],
  () =>
    call(
      api.GET('/api/staff/articles', {
        params: {
          query: {
            category: category.value || undefined,
            state: state.value,
            words: words.value,
            page: page.value,
          },
        },
      }),
    ),
)
const title = computed(() => {
  if (words.value) return `Articles with “${words.value}”`
  return tree.value.value?.find((c) => c.id === category.value)?.name ?? 'All articles'
})

function set(query: Record<string, string | number | undefined>) {
  router.push({ query: { ...route.query, page: undefined, ...query } })
}
watch(articles, () => (at.value = -1))

onKeyStroke(['j', 'k', 'Enter', 'n'], (e) => {
  if (typing(e) || creating.value || e.ctrlKey || e.metaKey) return
  const items = articles.value?.items ?? []
  if (e.key === 'n' && has('author')) {
    e.preventDefault()
    creating.value = true
  } else if (e.key === 'j' || e.key === 'k') {
    at.value = Math.min(items.length - 1, Math.max(0, at.value + (e.key === 'j' ? 1 : -1)))
    document.querySelectorAll('tbody tr')[at.value]?.scrollIntoView({ block: 'nearest' })
  } else if (e.key === 'Enter' && items[at.value] && (e.target as HTMLElement).tagName !== 'A') {
    router.push(`/library/${items[at.value]?.reference}`)
  }
})
</script>

<template>
  <Frame>
    <template #index>
      <CategoryTree
        :categories="tree.value.value ?? []"
        :chosen="category"
        @choose="(id) => set({ category: id || undefined, words: undefined })"
        @changed="tree.reload"
      />
    </template>
    <div class="row spread">
      <h1>{{ title }}</h1>
      <Button v-if="has('author')" type="primary" @click="creating = true">New article</Button>
    </div>
    <div class="row filters">
      <span class="faded">{{ counted(articles?.total ?? 0, 'article') }}</span>
      <Choice
        :model-value="state ?? ''"
        :options="[
          { value: '', label: 'In any state' },
          ...Object.entries(states).map(([value, label]) => ({ value, label })),
        ]"
        small
        aria-label="State"
        @chosen="(v) => set({ state: v || undefined })"
      />
      <button v-if="words" type="button" class="quiet" @click="set({ words: undefined })">
        Show all again
      </button>
    </div>
    <Failed v-if="error" :error="error" @retry="reload" />
    <p v-if="articles && !articles.total" class="empty">
      {{
        words || state
          ? 'No article fits. Try other words, or any state.'
          : 'Articles will stand here in the order customers meet them.'
      }}
      <button v-if="has('author')" type="button" class="quiet" @click="creating = true">
        Write the first one
      </button>
    </p>
    <table v-else-if="articles" class="list leaf">
      <thead>
        <tr>
          <th scope="col">Article</th>
          <th scope="col">State</th>
          <th scope="col">For</th>
          <th scope="col">Owner</th>
          <th scope="col">Written</th>
          <th scope="col" class="bar">How it ended</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(a, i) in articles.items" :key="a.reference" :class="{ at: i === at }">
          <td>
            <RouterLink :to="`/library/${a.reference}`" class="title">{{ a.title || 'Untitled' }}</RouterLink>
            <span class="faded small ref">{{ a.reference }}</span>
            <span v-if="!category" class="faded small in">{{ a.category }}</span>
          </td>
          <td>
            {{ states[a.state]
            }}<span v-if="a.live && a.state !== 'published'" class="faded small in"
              >an older text is live</span
            >
          </td>
          <td>{{ audiences[a.audience] }}</td>
          <td class="name">{{ a.owner }}</td>
          <td class="faded" :title="`${a.writer}, ${exact(a.written_at)}`">{{ ago(a.written_at) }}</td>
          <td class="bar"><OutcomeBar :counts="a.outcomes" counted /></td>
        </tr>
      </tbody>
    </table>
    <Pagination
      v-if="articles && articles.total > 50"
      class="pages"
      :current="page"
      :total="articles.total"
      :page-size="50"
      :show-size-changer="false"
      @change="(p) => set({ page: p })"
    />
    <NewArticle v-model:open="creating" :categories="tree.value.value ?? []" :category="category" />
  </Frame>
</template>

<style scoped>
.filters {
  margin-bottom: 0.8rem;
}
.list {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--faded);
  padding: 0.45rem 0.8rem;
}
td {
  padding: 0.4rem 0.8rem;
  border-top: 1px solid var(--rule);
  vertical-align: top;
}
.at td {
  background: #f6efe1;
}
.title {
  font-family: var(--text-face);
  color: var(--ink);
}
.title:hover {
  color: var(--rubric);
}
.in {
  display: block;
}
.bar {
  width: 8.5rem;
}
.ref {
  margin-left: 0.45rem;
}
.name {
  white-space: nowrap;
}
.pages {
  margin-top: 1rem;
}
</style>
