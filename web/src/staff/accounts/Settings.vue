<script setup lang="ts">
import { Button, InputNumber } from 'ant-design-vue'
import { reactive, ref, watch } from 'vue'
import { api, call } from '../../shared/api/client'
import Frame from '../shared/Frame.vue'
import People from './People.vue'
import { may } from '../session'
import { articleKinds } from '../library/kinds'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

const { act, busy } = useAct()
const settings = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/settings')),
)
const hours = ref(72)
watch(settings.value, (s) => (hours.value = s?.return_window_hours ?? 72))

const rule = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/recheck-rule')),
)
const days = reactive<Record<string, number>>({})
watch(rule.value, (r) => r && Object.assign(days, r))
async function saveRule() {
  await act(
    () => call(api.PUT('/api/staff/recheck-rule', { body: { ...days } })),
    'Changed; the dates follow',
  )
}

const keeping = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/keeping')),
)
const kept = reactive({ mails: 30, news: 180, jobs: 90, reports: 730, words: 730, evidence: 3660 })
const keepingOf = [
  { key: 'mails', label: 'Mails' },
  { key: 'news', label: 'News' },
  { key: 'jobs', label: 'Changes to many, imports, exports' },
  { key: 'reports', label: 'Search reports' },
  { key: 'words', label: 'Words that customers asked' },
  { key: 'evidence', label: 'Evidence at hand' },
] as const
watch(keeping.value, (k) => k && Object.assign(kept, k))
async function saveKeeping() {
  await act(
    () => call(api.PUT('/api/staff/keeping', { body: { ...kept } })),
    'Changed; what is older ends within the hour',
  )
}

const newcomers = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/newcomers')),
)
const perHour = ref(200)
watch(newcomers.value, (n) => n && (perHour.value = n.per_hour))
async function saveNewcomers() {
  await act(
    () => call(api.PUT('/api/staff/newcomers', { body: { per_hour: perHour.value } })),
    'Changed for what comes from now on',
  )
}

async function saveHours() {
  await act(
    () => call(api.PUT('/api/staff/settings', { body: { return_window_hours: hours.value } })),
    'Changed; every figure is counted anew in the background',
  )
}
</script>

<template>
  <Frame>
    <h1>Settings</h1>
    <p class="row">
      <RouterLink to="/settings/sites">Help centres</RouterLink>
      <RouterLink to="/settings/groups">Groups of customers</RouterLink>
      <RouterLink to="/settings/hours">Opening hours</RouterLink>
      <RouterLink to="/settings/customers">Customers</RouterLink>
      <RouterLink to="/settings/problems">Known problems</RouterLink>
      <RouterLink to="/settings/paths">Review paths</RouterLink>
      <RouterLink to="/trail">The trail</RouterLink>
    </p>
    <p v-if="!may('administer')" class="empty">
      Only administrators change settings. Ask one if something here should be different.
    </p>
    <template v-else>
      <People />
      <section v-if="rule.value.value">
        <h2>Rechecks</h2>
        <p class="faded">
          After how many days the owner of a live article must confirm it, by its kind. What is read most, and
          makes up half of all reading, is due in half the time; what nobody read for 90 days, in half as long
          again.
        </p>
        <form class="row" @submit.prevent="saveRule">
          <template v-for="k in articleKinds" :key="k.value">
            <label :for="`rule-${k.value}`">{{ k.label }}</label>
            <InputNumber :id="`rule-${k.value}`" v-model:value="days[k.value]" :min="1" :max="3660" />
          </template>
          <Button html-type="submit" :loading="busy">Save days</Button>
        </form>
      </section>
      <section v-if="keeping.value.value">
        <h2>How long things are kept</h2>
        <p class="faded">
          In days. Texts, their revisions, the trail, conversations and evidence do not end by this, but the
          words that customers asked do: what happened stays, and with it the figures. Until its days are
          over, a change to many articles can be taken back, and an export fetched. Months of evidence that
          are no longer at hand are put aside in the database: what was counted of them is final.
        </p>
        <form class="row" @submit.prevent="saveKeeping">
          <template v-for="k in keepingOf" :key="k.key">
            <label :for="`keep-${k.key}`">{{ k.label }}</label>
            <InputNumber
              :id="`keep-${k.key}`"
              v-model:value="kept[k.key]"
              :min="k.key === 'evidence' ? 100 : 1"
              :max="k.key === 'evidence' ? 36600 : 3660"
            />
          </template>
          <Button html-type="submit" :loading="busy">Save days kept</Button>
        </form>
      </section>
      <section>
        <h2>Return window</h2>
        <p class="faded">
          How long after a question closed a contact still counts as coming back with it. It takes effect on
          every figure, past ones too: they are counted anew in the background, and stand as they are until
          then.
        </p>
        <form class="row" @submit.prevent="saveHours">
          <label for="hours">Hours</label>
          <InputNumber id="hours" v-model:value="hours" :min="1" :max="720" />
          <Button html-type="submit" :loading="busy">Save window</Button>
        </form>
      </section>
      <section v-if="newcomers.value.value">
        <h2>Unlikely questions</h2>
        <p class="faded">
          How many new askers of one network within an hour are likely to be people. What the others do is
          counted as unlikely, and in no rate, unless they sign in, give an address or reach a person. An
          office or a telephone company is one network for many.
        </p>
        <form class="row" @submit.prevent="saveNewcomers">
          <label for="newcomers">New askers an hour</label>
          <InputNumber id="newcomers" v-model:value="perHour" :min="1" :max="1000000" />
          <Button html-type="submit" :loading="busy">Save likely askers</Button>
        </form>
      </section>
    </template>
  </Frame>
</template>
