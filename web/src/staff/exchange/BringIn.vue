<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { api, call } from '../../shared/api/client'
import { counted } from '../../shared/format'
import Choice from '../shared/Choice.vue'
import Frame from '../shared/Frame.vue'
import { may } from '../session'
import { useAct } from '../shared/act'
import { useJob } from '../shared/job'
import { useLoad } from '../shared/load'

/** Brings articles in from an archive or a page: first what it would do, then that. */
interface Line {
  file: string
  line?: number
  action: string
  reference?: string
  title?: string
  message?: string
}
interface Report {
  created: number
  changed: number
  skipped: number
  notes: number
  failed: number
  lines: Line[] | null
  error?: string
}
const file = ref<File>()
const category = ref(0)
const split = ref<'pages' | 'parts'>('pages')
const report = ref<Report>()
const dry = ref(true)
const only = ref('')
const { act, busy } = useAct()
const { job, follow } = useJob()
const categories = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/categories')),
)
const words: Record<string, string> = {
  create: 'create',
  change: 'change',
  skip: 'skip',
  note: 'not kept',
  problem: 'refused',
}
const lines = computed(() =>
  (report.value?.lines ?? []).filter((l) => !only.value || l.action === only.value),
)
const shown = 500

async function run(now: boolean) {
  const f = file.value
  if (!f) return
  await act(async () => {
    const begun = await call(
      api.POST('/api/staff/imports', {
        params: {
          query: { name: f.name, dry: !now, category: category.value || undefined, split: split.value },
        },
        body: '' as never,
        bodySerializer: () => f,
        headers: { 'Content-Type': 'application/octet-stream' },
      }),
    )
    const done = await follow(begun.id)
    dry.value = !now
    report.value = done?.result as unknown as Report
  })
}
function choose(e: Event) {
  file.value = (e.target as HTMLInputElement).files?.[0]
  report.value = undefined
}
</script>

<template>
  <Frame>
    <p class="small"><RouterLink to="/library">Library</RouterLink> › Bring articles in</p>
    <h1>Bring articles in</h1>
    <p v-if="!may('write')" class="empty">
      Bringing articles in needs the role author. Ask an administrator.
    </p>
    <template v-else>
      <p class="faded intro">
        A .zip of Markdown files (CommonMark, with or without YAML front matter) and HTML pages with their
        pictures, or a single file. Folders become categories, links between the files are kept, and
        everything begins as a draft: what customers read stays as it is. Bringing the same in again changes
        nothing.
      </p>
      <form class="panel fields" @submit.prevent="run(false)">
        <label for="bring-file">File</label>
        <input id="bring-file" type="file" accept=".zip,.md,.markdown,.html,.htm" @change="choose" />
        <label for="bring-category">Into</label>
        <Choice
          id="bring-category"
          v-model="category"
          :options="[
            { value: 0, label: 'The top of the library' },
            ...(categories.value.value ?? []).map((c) => ({
              value: c.id,
              label: '\u2003'.repeat(c.depth - 1) + c.name,
            })),
          ]"
          @chosen="report = undefined"
        />
        <label for="bring-split">HTML pages</label>
        <Choice
          id="bring-split"
          v-model="split"
          :options="[
            { value: 'pages', label: 'One article for each page' },
            { value: 'parts', label: 'One article for each heading that has no others below it' },
          ]"
          @chosen="report = undefined"
        />
        <span />
        <Button
          html-type="submit"
          :type="report ? 'default' : 'primary'"
          :disabled="!file"
          :loading="busy && !report"
          >Show what it would do</Button
        >
      </form>
      <Progress
        v-if="job && busy"
        :percent="Math.round((100 * job.done) / Math.max(1, job.total))"
        :format="() => `${job?.done ?? 0} of ${job?.total ?? 0}`"
      />
      <section v-if="report" aria-label="Report">
        <p v-if="report.error" class="fault" role="alert">{{ report.error }}</p>
        <template v-else>
          <div class="row spread">
            <p role="status">
              <strong>{{ dry ? 'This would' : 'Done:' }}</strong>
              create {{ counted(report.created, 'article') }}, change {{ report.changed }}, skip
              {{ report.skipped }} that are so already<template v-if="report.failed"
                >, refuse {{ report.failed }}</template
              >. {{ counted(report.notes, 'thing') }} cannot be kept.
            </p>
            <Button
              v-if="dry && report.created + report.changed > 0"
              type="primary"
              :loading="busy"
              @click="run(true)"
              >Bring them in</Button
            >
            <RouterLink v-else-if="!dry" to="/library?sort=-written">See them</RouterLink>
          </div>
          <p class="row small" role="group" aria-label="Lines shown">
            <button
              v-for="a in ['', 'create', 'change', 'skip', 'note', 'problem']"
              :key="a"
              type="button"
              class="quiet"
              :aria-pressed="only === a"
              @click="only = a"
            >
              {{ a ? words[a] : 'all lines' }}
            </button>
          </p>
          <table class="panel small">
            <thead>
              <tr>
                <th scope="col">What</th>
                <th scope="col">File</th>
                <th scope="col">Article</th>
                <th scope="col">Note</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(l, i) in lines.slice(0, shown)" :key="i">
                <td :class="{ fault: l.action === 'problem' }">{{ words[l.action] }}</td>
                <td>
                  {{ l.file }}<template v-if="l.line">:{{ l.line }}</template>
                </td>
                <td>
                  <RouterLink v-if="l.reference && !dry" :to="`/library/${l.reference}`">{{
                    l.title
                  }}</RouterLink>
                  <template v-else>{{ l.title }}</template>
                </td>
                <td>{{ l.message }}</td>
              </tr>
            </tbody>
          </table>
          <p v-if="lines.length > shown" class="small faded">and {{ lines.length - shown }} more lines.</p>
        </template>
      </section>
    </template>
  </Frame>
</template>

<style scoped>
.intro {
  max-width: 44rem;
}
.fields {
  display: grid;
  grid-template-columns: 7rem minmax(0, 26rem);
  gap: 0.5rem 0.8rem;
  align-items: center;
  padding: 0.9rem 1rem;
  margin-bottom: 1rem;
  justify-items: start;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--faded);
}
th,
td {
  padding: 0.3rem 0.7rem;
  vertical-align: top;
  overflow-wrap: anywhere;
}
td {
  border-top: 1px solid var(--rule);
}
td:first-child {
  white-space: nowrap;
}
button[aria-pressed='true'] {
  text-decoration: underline;
  text-underline-offset: 4px;
}
</style>
