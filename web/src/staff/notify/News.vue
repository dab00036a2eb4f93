<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, reactive, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import Choice from '../shared/Choice.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import Pages from '../shared/Pages.vue'
import { unread } from './news'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

/** What one is told, and what one wants to be told. */
const route = useRoute()
const router = useRouter()
const { act, busy } = useAct()
const page = computed(() => Number(route.query.page) || 1)
const kind = computed(() => String(route.query.kind ?? ''))
const news = useLoad(
  () => [page.value, kind.value, unread.value],
  () => call(api.GET('/api/staff/news', { params: { query: { page: page.value, kind: kind.value } } })),
)
const wishes = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/news/wishes')),
)
const form = reactive({ off: [] as string[], no_mail: [] as string[], rhythm: 'soon' })
watch(wishes.value, (w) => w && Object.assign(form, { off: w.off, no_mail: w.no_mail, rhythm: w.rhythm }))

async function read(id: number) {
  await act(() => call(api.POST('/api/staff/news/read', { body: { id } })))
  unread.value = Math.max(0, id ? unread.value - 1 : 0)
  await news.reload()
}
async function open(n: Schemas['NewsLine']) {
  if (!n.read_at) await read(n.id)
  if (n.path) await router.push(n.path)
}
async function keep() {
  await act(() => call(api.PUT('/api/staff/news/wishes', { body: { ...form } })), 'Kept')
}
function toggle(list: 'off' | 'no_mail', what: string) {
  form[list] = form[list].includes(what) ? form[list].filter((k) => k !== what) : [...form[list], what]
}
</script>

<template>
  <Frame margin-title="What I am told">
    <div class="row spread">
      <h1>News</h1>
      <span class="row">
        <Choice
          :model-value="kind"
          small
          aria-label="Kind of news"
          :options="[
            { value: '', label: 'Of every kind' },
            ...(wishes.value.value?.kinds ?? []).map((k) => ({ value: k.kind, label: k.about })),
          ]"
          @chosen="(v) => router.push({ query: v ? { kind: v } : {} })"
        />
        <Button v-if="news.value.value?.unread" size="small" :loading="busy" @click="read(0)"
          >All are read</Button
        >
      </span>
    </div>
    <Failed v-if="news.error.value" :error="news.error.value" @retry="news.reload" />
    <p v-if="news.value.value && !news.value.value.total" class="empty">
      Nothing yet. Reviews that wait for you, decisions about your texts, what readers say, and what is due
      will stand here, and come by mail too if you wish.
    </p>
    <ul v-else class="lines">
      <li v-for="n in news.value.value?.items ?? []" :key="n.id" :class="{ unread: !n.read_at }">
        <a :href="`/staff${n.path}`" @click.prevent="open(n)">{{ n.text }}</a>
        <span class="faded small" :title="exact(n.at)">{{ ago(n.at) }}</span>
      </li>
    </ul>
    <Pages
      :page="page"
      :total="news.value.value?.total ?? 0"
      @page="(p) => router.push({ query: { ...route.query, page: String(p) } })"
    />
    <template #margin>
      <h2 class="first">What I am told</h2>
      <form v-if="wishes.value.value" @submit.prevent="keep">
        <table class="small">
          <thead>
            <tr>
              <th scope="col"><span class="hidden">What</span></th>
              <th scope="col">Here</th>
              <th scope="col">Mail</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="k in wishes.value.value.kinds ?? []" :key="k.kind">
              <td>{{ k.about }}</td>
              <td>
                <input
                  type="checkbox"
                  :checked="!form.off.includes(k.kind)"
                  :aria-label="`Here: ${k.about}`"
                  @change="toggle('off', k.kind)"
                />
              </td>
              <td>
                <input
                  type="checkbox"
                  :checked="!form.no_mail.includes(k.kind)"
                  :aria-label="`By mail: ${k.about}`"
                  @change="toggle('no_mail', k.kind)"
                />
              </td>
            </tr>
          </tbody>
        </table>
        <label for="rhythm" class="small">Mail comes</label>
        <Choice
          id="rhythm"
          v-model="form.rhythm"
          :options="[
            { value: 'soon', label: 'Ten minutes later, gathered into one' },
            { value: 'daily', label: 'Once a day, at eight' },
            { value: 'never', label: 'Never' },
          ]"
        />
        <Button class="keep" html-type="submit" :loading="busy">Keep this</Button>
      </form>
    </template>
  </Frame>
</template>

<style scoped>
.lines {
  list-style: none;
  margin: 0.6rem 0;
  padding: 0;
  background: var(--leaf);
  border: 1px solid var(--rule);
  border-radius: 4px;
}
.lines li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 7rem;
  gap: 1rem;
  padding: 0.5rem 0.9rem;
  border-top: 1px solid var(--rule);
  border-left: 3px solid transparent;
}
.lines li:first-child {
  border-top: 0;
}
.lines a {
  color: var(--ink);
  overflow-wrap: anywhere;
}
.unread {
  border-left-color: var(--rubric) !important;
}
.first {
  margin-top: 0;
}
td,
th {
  padding: 0.2rem 0.4rem 0.2rem 0;
  text-align: left;
  vertical-align: top;
  font-weight: 400;
}
.keep {
  margin-top: 0.7rem;
}
</style>
