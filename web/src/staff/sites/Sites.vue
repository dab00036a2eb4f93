<script setup lang="ts">
import { Button, Input, InputNumber, Textarea } from 'ant-design-vue'
import { reactive, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import FollowFields from './FollowFields.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { may } from '../session'
import { useAct } from '../shared/act'
import { keepMedia } from '../shared/files'
import { useLoad } from '../shared/load'

/** The help centres over the library: each with its name, look, languages and parts. */
const { act, busy, refused } = useAct()
const sites = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/sites')),
)
const categories = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/categories')),
)
const languages = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/languages')),
)
const editing = ref<Schemas['Site']>()
const form = reactive({ hosts: '', words: '' })
const blank = {
  id: 0,
  name: '',
  main: false,
  hosts: [],
  brand_colour: '#1D5140',
  accent_colour: '#98301F',
  logo: '',
  languages: ['en'],
  avoided_words: [],
  categories: [],
  articles: 0,
  zone: '',
  reopen_days: 14,
  link_days: 30,
  asks_to_follow: false,
  follow_words: {},
} satisfies Schemas['Site']
const split = (text: string) =>
  text
    .split(/[\n,]/)
    .map((w) => w.trim())
    .filter(Boolean)

function edit(s: Schemas['Site'] = blank) {
  editing.value = {
    ...s,
    languages: [...s.languages],
    categories: [...s.categories],
  }
  form.hosts = s.hosts.join('\n')
  form.words = s.avoided_words.join('\n')
}
async function save() {
  const s = editing.value
  if (!s) return
  const body = { ...s, hosts: split(form.hosts), avoided_words: split(form.words) }
  const ok = await act(
    () =>
      s.id
        ? call(api.PUT('/api/staff/sites/{id}', { params: { path: { id: s.id } }, body }))
        : call(api.POST('/api/staff/sites', { body })),
    'Kept',
  )
  if (ok) await close()
}
async function remove() {
  const id = editing.value?.id ?? 0
  if (await act(() => call(api.DELETE('/api/staff/sites/{id}', { params: { path: { id } } })), 'Removed'))
    await close()
}
async function close() {
  editing.value = undefined
  await sites.reload()
}
async function logo(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (file && editing.value)
    await act(async () => editing.value && (editing.value.logo = (await keepMedia(file)).path))
}
const fault = (name: string) => refused.value?.field(name)
</script>

<template>
  <Frame>
    <p class="small"><RouterLink to="/settings">Settings</RouterLink> › Help centres</p>
    <h1>Help centres</h1>
    <Failed v-if="sites.error.value" :error="sites.error.value" @retry="sites.reload" />
    <template v-if="!editing">
      <p class="faded">Each shows the library, or parts of it, under a name and look of its own.</p>
      <ul class="plainlist panel list">
        <li v-for="s in sites.value.value ?? []" :key="s.id" class="row spread">
          <span>
            <span class="swatch" :style="{ background: s.brand_colour }" /> <strong>{{ s.name }}</strong>
            <span class="faded small more"
              >{{ s.hosts.length ? s.hosts.join(', ') : 'answers every other host' }} ·
              {{ counted(s.articles, 'live article') }} · {{ s.languages.join(', ') }}</span
            >
          </span>
          <span class="row">
            <RouterLink :to="`/settings/sites/${s.id}/search`" :aria-label="`Search of ${s.name}`"
              >Search</RouterLink
            >
            <RouterLink :to="`/settings/sites/${s.id}/form`" :aria-label="`Request form of ${s.name}`"
              >Request form</RouterLink
            >
            <button
              v-if="may('administer')"
              type="button"
              class="quiet"
              :aria-label="`Change ${s.name}`"
              @click="edit(s)"
            >
              Change
            </button>
          </span>
        </li>
      </ul>
      <Button v-if="may('administer')" type="primary" @click="edit()">New help centre</Button>
    </template>
    <form v-else class="fields" novalidate @submit.prevent="save">
      <label for="site-name">Name</label>
      <Input id="site-name" v-model:value="editing.name" :maxlength="60" />
      <p v-if="fault('name')" class="fault">{{ fault('name') }}</p>
      <label for="site-hosts">Hosts it is asked for under, one a line</label>
      <Textarea
        id="site-hosts"
        v-model:value="form.hosts"
        :rows="2"
        placeholder="business.wrenmoor.example"
      />
      <p v-if="editing.main" class="small faded">
        Without any, it answers every host that is not another help centre’s.
      </p>
      <p v-if="fault('hosts')" class="fault">{{ fault('hosts') }}</p>
      <div class="row">
        <label>Brand colour <input v-model="editing.brand_colour" type="color" /></label>
        <label>Accent <input v-model="editing.accent_colour" type="color" /></label>
        <label>Logo <input type="file" accept="image/png,image/jpeg,image/webp" @change="logo" /></label>
        <img v-if="editing.logo" :src="editing.logo" alt="The logo" height="28" />
      </div>
      <p v-if="fault('brand_colour')" class="fault">Brand colour: {{ fault('brand_colour') }}</p>
      <p v-if="fault('accent_colour')" class="fault">Accent: {{ fault('accent_colour') }}</p>
      <label for="site-reopen">For how many days a closed request can be reopened</label>
      <InputNumber id="site-reopen" v-model:value="editing.reopen_days" :min="0" :max="365" />
      <p v-if="fault('reopen_days')" class="fault">{{ fault('reopen_days') }}</p>
      <label for="site-links">For how many days after the last word a link opens a conversation</label>
      <InputNumber id="site-links" v-model:value="editing.link_days" :min="1" :max="365" />
      <p v-if="fault('link_days')" class="fault">{{ fault('link_days') }}</p>
      <label for="site-zone">Time zone, in which times to publish are set</label>
      <Input
        id="site-zone"
        v-model:value="editing.zone"
        :maxlength="60"
        placeholder="That of the installation, or one such as Europe/London"
      />
      <p v-if="fault('zone')" class="fault">{{ fault('zone') }}</p>
      <fieldset>
        <legend>Languages</legend>
        <label v-for="(name, code) in languages.value.value ?? {}" :key="code" class="tick"
          ><input v-model="editing.languages" type="checkbox" :value="code" :disabled="code === 'en'" />
          {{ name }}</label
        >
      </fieldset>
      <FollowFields
        v-model="editing"
        :languages="languages.value.value ?? {}"
        :fault="fault('follow_words')"
      />
      <fieldset>
        <legend>Shows these categories, with everything below them. None chosen means all.</legend>
        <label
          v-for="c in categories.value.value ?? []"
          :key="c.id"
          class="line"
          :style="{ paddingLeft: `${(c.depth - 1) * 1.1}rem` }"
          ><input v-model="editing.categories" type="checkbox" :value="c.id" /> {{ c.name }}</label
        >
      </fieldset>
      <label for="site-words">Words the house avoids, one a line: “utilise = use”, or the word alone</label>
      <Textarea id="site-words" v-model:value="form.words" :rows="4" />
      <p v-if="fault('avoided_words')" class="fault">{{ fault('avoided_words') }}</p>
      <div class="row">
        <Button type="primary" html-type="submit" :loading="busy">Keep help centre</Button>
        <Button @click="editing = undefined">Cancel</Button>
        <Button v-if="editing.id && !editing.main" @click="remove">Remove it</Button>
      </div>
    </form>
  </Frame>
</template>

<style scoped>
.list {
  margin-bottom: 1rem;
}
.list li {
  padding: 0.5rem 0.9rem;
}
.list li + li {
  border-top: 1px solid var(--rule);
}
.more {
  display: block;
}
.swatch {
  display: inline-block;
  width: 0.8rem;
  height: 0.8rem;
  border-radius: 2px;
}
.fields {
  display: grid;
  gap: 0.4rem;
  max-width: 44rem;
}
fieldset {
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 0.3rem 0.8rem 0.5rem;
}
legend {
  padding: 0 0.3rem;
}
.tick {
  display: inline-block;
  margin-right: 1rem;
}
.line {
  display: block;
}
</style>
