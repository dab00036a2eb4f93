<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, call } from '../../shared/api/client'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { useFresh, useLoad } from '../shared/load'
import Holidays from './Holidays.vue'
import HoursForm from './HoursForm.vue'

/** When teams and help centres are open, and who is here. */
const route = useRoute()
const router = useRouter()
const {
  value: openings,
  error,
  reload,
} = useLoad(
  () => 'hours',
  () => call(api.GET('/api/staff/hours')),
  'hours',
)
useFresh(reload)
const chosen = computed(() => String(route.query.of ?? ''))
const one = computed(() => openings.value?.list.find((o) => `${o.kind}-${o.id}` === chosen.value))
const drawn = ref(0)
const choose = (of: string) => router.replace({ query: of ? { of } : {} })
async function changed() {
  await reload()
  drawn.value++
}
const presence: Record<string, string> = { free: 'free', busy: 'busy', away: 'nobody there' }
</script>

<template>
  <Frame>
    <template #index>
      <ul class="plainlist index">
        <li>
          <button type="button" :aria-current="!chosen ? 'page' : undefined" @click="choose('')">
            Holidays for all
          </button>
        </li>
        <li v-for="o in openings?.list ?? []" :key="`${o.kind}-${o.id}`">
          <button
            type="button"
            :aria-current="chosen === `${o.kind}-${o.id}` ? 'page' : undefined"
            @click="choose(`${o.kind}-${o.id}`)"
          >
            {{ o.name }}
            <span class="faded small">
              {{ o.kind === 'team' ? 'team' : 'help centre' }},
              {{ !o.open ? 'closed' : o.presence ? presence[o.presence] : 'open' }}
            </span>
          </button>
        </li>
      </ul>
    </template>
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-else-if="openings">
      <template v-if="one">
        <h1>{{ one.name }}</h1>
        <p>
          <strong>{{ one.open ? 'Open' : 'Closed' }} now.</strong>{{ ' ' }}
          <template v-if="one.next">
            {{ one.open ? 'Closes' : 'Opens' }} {{ one.next }}, {{ one.in }}.
          </template>
          <template v-else>{{ one.open ? 'Never closes.' : 'Never opens.' }}</template>
          <span v-if="!one.set" class="faded"> Nobody has set its hours yet.</span>
        </p>
        <HoursForm :key="`${chosen} ${drawn}`" :opening="one" :zone="openings.zone" @changed="changed" />
        <h2>Other days</h2>
        <Holidays :kind="one.kind" :of="one.id" :days="one.days" @changed="changed" />
        <p v-if="!one.always" class="faded small">Besides those that hold for all.</p>
      </template>
      <template v-else>
        <h1>Opening hours</h1>
        <p class="faded">
          The bot says what is so: that somebody will be with a customer only when an agent is here, free, and
          the team is open. Days that hold for all close every team and help centre but those that never
          close.
        </p>
        <Holidays kind="" :of="0" :days="openings.days" @changed="changed" />
      </template>
    </template>
  </Frame>
</template>

<style scoped>
.index button {
  display: grid;
  width: 100%;
  text-align: left;
  font: inherit;
  background: none;
  border: 0;
  border-left: 3px solid transparent;
  padding: 0.3rem 0.6rem;
  cursor: pointer;
}
.index button[aria-current] {
  border-color: var(--rubric);
  background: var(--leaf);
}
</style>
