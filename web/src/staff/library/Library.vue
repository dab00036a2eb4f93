<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import ArticleTable from './ArticleTable.vue'
import BulkBar from '../writing/BulkBar.vue'
import CategoryTree from './CategoryTree.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import Pages from '../shared/Pages.vue'
import LibraryFilters from './LibraryFilters.vue'
import NewArticle from './NewArticle.vue'
import { may } from '../session'
import { useKey } from '../shared/keys'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import { articleFilter, type Filter } from './filter'
import { useStillTrue } from '../review/stillTrue'

const route = useRoute()
const router = useRouter()
const creating = ref(false)
const at = ref(-1)
const selected = ref<number[]>([])
const filter = computed(() => articleFilter(route.query))
const page = computed(() => Number(route.query.page) || 1)
const { act } = useAct()

const tree = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/categories')),
  'categories',
)
const {
  value: articles,
  error,
  reload,
} = useLoad(
  () => [route.query],
  () => call(api.GET('/api/staff/articles', { params: { query: { ...filter.value, page: page.value } } })),
  'articles',
)
const title = computed(() => {
  if (filter.value.words) return `Articles with “${filter.value.words}”`
  return tree.value.value?.find((c) => c.id === filter.value.category)?.name ?? 'All articles'
})
const filtered = computed(() => Object.keys(filter.value).some((k) => k !== 'category' && k !== 'sort'))
const movable = computed(() => !filtered.value && !filter.value.sort && may('move_articles'))

function set(change: Filter) {
  const query = articleFilter({ ...route.query, ...change } as typeof route.query)
  void router.push({ query: Object.fromEntries(Object.entries(query).map(([k, v]) => [k, String(v)])) })
}
watch(articles, () => (at.value = -1))
watch(
  () => JSON.stringify(filter.value),
  () => (selected.value = []),
)

async function put(row: Schemas['ArticleLine'], before: Schemas['ArticleLine'] | undefined) {
  const ok = await act(() =>
    call(
      api.POST('/api/staff/articles/{reference}/move', {
        params: { path: { reference: row.reference } },
        body: { parent_id: before?.category_id ?? row.category_id, before_id: before?.id ?? 0 },
      }),
    ),
  )
  if (ok) await reload()
}

/** Moves the row at the mark up or down among the articles of its category. */
async function shift(by: 1 | -1) {
  const items = articles.value?.items ?? []
  const i = at.value
  const row = items[i]
  const target = items[by < 0 ? i - 1 : i + 2]
  if (!row || !movable.value) return
  const swap = items[i + by]
  if (!swap || swap.category_id !== row.category_id) return
  await put(row, target?.category_id === row.category_id ? target : undefined)
  at.value = i + by
}

/** Brings the list up to date, with the mark on the line where it was. */
async function again() {
  const was = at.value
  await reload()
  at.value = Math.min(was, (articles.value?.items.length ?? 0) - 1)
}
const stillTrue = useStillTrue(again)

const marked = () => articles.value?.items[at.value]
useKey('n', (e) => {
  if (!may('write')) return
  e.preventDefault()
  creating.value = true
})
useKey(['j', 'k'], (e) => {
  const last = (articles.value?.items.length ?? 0) - 1
  at.value = Math.min(last, Math.max(0, at.value + (e.key === 'j' ? 1 : -1)))
  document.querySelectorAll('tbody tr')[at.value]?.scrollIntoView({ block: 'nearest' })
})
useKey('t', () => {
  const row = marked()
  if (row && may('confirm_articles')) void stillTrue(row.reference)
})
useKey('x', () => {
  const row = marked()
  if (!row) return
  selected.value = selected.value.includes(row.id)
    ? selected.value.filter((id) => id !== row.id)
    : [...selected.value, row.id]
})
useKey('Enter', (e) => {
  const row = marked()
  if (row && !/^(A|BUTTON)$/.test((e.target as HTMLElement).tagName))
    void router.push(`/library/${row.reference}`)
})
useKey(
  ['ArrowUp', 'ArrowDown'],
  (e) => {
    if (!marked() || (e.target as HTMLElement).closest('nav')) return
    e.preventDefault()
    void shift(e.key === 'ArrowUp' ? -1 : 1)
  },
  { alt: true },
)
</script>

<template>
  <Frame>
    <template #index>
      <CategoryTree
        :categories="tree.value.value ?? []"
        :chosen="filter.category ?? 0"
        @choose="(id) => set({ category: id || undefined, words: undefined })"
        @changed="(tree.reload(), reload())"
      />
    </template>
    <div class="row spread">
      <h1>{{ title }}</h1>
      <span class="row">
        <RouterLink
          class="small"
          :to="{ path: '/trail', query: filter.category ? { category: filter.category } : {} }"
          >Trail</RouterLink
        >
        <RouterLink to="/library/templates" class="small">Templates</RouterLink>
        <RouterLink v-if="may('write')" to="/library/bring-in" class="small">Bring articles in</RouterLink>
        <Button v-if="may('write')" type="primary" @click="creating = true">New article</Button>
      </span>
    </div>
    <LibraryFilters :filter="filter" :total="articles?.total ?? 0" @set="set" />
    <BulkBar
      v-model:selected="selected"
      :rows="articles?.items ?? []"
      :total="articles?.total ?? 0"
      :filter="filter"
      :categories="tree.value.value ?? []"
      @changed="(reload(), tree.reload())"
    />
    <Failed v-if="error" :error="error" @retry="reload" />
    <p v-if="articles && !articles.total" class="empty">
      {{
        filtered
          ? 'No article fits. Take a filter away, or try other words.'
          : 'Articles will stand here in the order customers meet them.'
      }}
      <button v-if="may('write') && !filtered" type="button" class="quiet" @click="creating = true">
        Write the first one
      </button>
    </p>
    <ArticleTable
      v-else-if="articles"
      v-model:selected="selected"
      :rows="articles.items"
      :at="at"
      :sort="filter.sort"
      :with-category="!filter.category"
      :movable="movable"
      @sort="(by) => set({ sort: by as Filter['sort'] })"
      @moved="put"
    />
    <Pages
      :page="page"
      :total="articles?.total ?? 0"
      @page="(p) => router.push({ query: { ...route.query, page: p } })"
    />
    <p v-if="articles?.total" class="small faded">
      {{ counted(articles.total, 'article') }}.
      <template v-if="movable"
        >Drag a row, or mark it with <kbd>j</kbd> and <kbd>k</kbd> and move it with <kbd>Alt</kbd>+<kbd
          >↑</kbd
        >
        <kbd>↓</kbd>.</template
      >
    </p>
    <NewArticle
      v-model:open="creating"
      :categories="tree.value.value ?? []"
      :category="filter.category ?? 0"
    />
  </Frame>
</template>

<style scoped>
.pages {
  margin-top: 1rem;
}
</style>
