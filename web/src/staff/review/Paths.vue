<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import PathForm from './PathForm.vue'
import { may } from '../session'
import { useAct } from '../shared/act'
import { sure } from '../shared/sure'
import { useLoad } from '../shared/load'

/** The review paths: which gates a text passes before it can go live. */
const { act } = useAct()
const paths = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/paths')),
)
const editing = ref<Schemas['ReviewPath'] | 'new'>()

function retire(p: Schemas['ReviewPath']) {
  sure(
    `Take “${p.name}” out of use?`,
    'What is in review on it stays on it. No category can choose it any more.',
    'Take it out',
    async () => {
      await act(
        () => call(api.DELETE('/api/staff/paths/{id}', { params: { path: { id: p.id } } })),
        'Out of use',
      )
      await paths.reload()
    },
  )
}
</script>

<template>
  <Frame>
    <p class="crumbs small"><RouterLink to="/settings">Settings</RouterLink> › Review paths</p>
    <div class="row spread">
      <h1>Review paths</h1>
      <Button v-if="may('administer')" type="primary" @click="editing = 'new'">New path</Button>
    </div>
    <p class="faded">
      The gates a text passes, in order, before it can go live. A category has its own path or its parent’s;
      choose it where the category is changed, in the library. What is in review stays on the path it entered.
    </p>
    <Failed v-if="paths.error.value" :error="paths.error.value" @retry="paths.reload" />
    <article v-for="p in paths.value.value ?? []" :key="p.id" class="panel path">
      <div class="row spread">
        <h2>{{ p.name }}</h2>
        <span v-if="may('administer')" class="row small">
          <button type="button" class="quiet" :aria-label="`Change ${p.name}`" @click="editing = p">
            Change
          </button>
          <button
            v-if="!p.standard"
            type="button"
            class="quiet"
            :aria-label="`Take ${p.name} out of use`"
            @click="retire(p)"
          >
            Take it out of use
          </button>
        </span>
      </div>
      <ol>
        <li v-for="(g, i) in p.gates" :key="g.name">
          <strong>{{ g.name }}</strong>, by {{ p.who[i]
          }}<span class="faded">
            {{
              [
                g.own && 'authors may pass their own',
                g.other && 'not by who passed a gate before it',
                g.note && 'with a decision note',
                g.overdue_hours && `overdue after ${counted(g.overdue_hours, 'hour')}`,
              ]
                .filter(Boolean)
                .map((t) => '; ' + t)
                .join('')
            }}</span
          >
        </li>
      </ol>
      <p class="small faded">
        {{
          p.standard
            ? 'Of every category that names none'
            : p.categories.length
              ? `Of ${p.categories.join(', ')}, and what is below`
              : 'Of no category yet'
        }}.
        <template v-if="p.inside">{{ counted(p.inside, 'text') }} in review on it.</template>
      </p>
    </article>
    <PathForm
      v-if="editing"
      :path="editing === 'new' ? undefined : editing"
      @done="((editing = undefined), paths.reload())"
      @cancel="editing = undefined"
    />
  </Frame>
</template>

<style scoped>
.crumbs {
  margin: 0 0 0.5rem;
}
.path {
  padding: 0.7rem 1rem;
  margin-bottom: 0.7rem;
}
.path h2 {
  margin: 0;
}
ol {
  margin: 0.3rem 0;
  padding-left: 1.4rem;
}
p.small {
  margin: 0;
}
</style>
