<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { may } from '../session'
import { useAct } from '../shared/act'
import Choice from '../shared/Choice.vue'

/** The week of a team or a help centre, who is in it, and what is said while nobody is free. */
const props = defineProps<{ opening: Schemas['OpeningLine']; zone: string }>()
const emit = defineEmits<{ changed: [] }>()
const { act, busy, refused } = useAct()
const days = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const mayChange = computed(() => may('publish') || may('administer'))
const form = reactive({
  always: props.opening.always,
  zone: props.opening.zone,
  week: [...props.opening.week],
  away: props.opening.away_until,
  words: { ...props.opening.away_words },
  busy: { ...props.opening.busy_words },
  closed: { ...props.opening.closed_words },
})
const language = ref(props.opening.languages[0] ?? 'en')
const wrong = (i: number) => refused.value?.field(`week[${i}]`)

async function keep() {
  const ok = await act(
    () =>
      call(
        api.PUT('/api/staff/hours/{of}', {
          params: { path: { of: `${props.opening.kind}-${props.opening.id}` } },
          body: {
            zone: form.zone,
            always: form.always,
            week: form.week,
            away_until: form.away,
            away_words: form.words,
            busy_words: form.busy,
            closed_words: form.closed,
            version: props.opening.version,
          },
        }),
      ),
    'Kept',
  )
  if (ok) emit('changed')
}
async function setPresence(a: Schemas['Agent'], here: boolean, chats: number) {
  const body = { here, chats }
  if (await act(() => call(api.PUT('/api/staff/presence/{id}', { params: { path: { id: a.id } }, body }))))
    emit('changed')
}
const said = [
  { key: 'busy', label: 'While everybody is busy' },
  { key: 'closed', label: 'While nobody is there' },
  { key: 'words', label: 'While we are away until that day' },
] as const
</script>

<template>
  <form @submit.prevent="keep">
    <fieldset :disabled="!mayChange" class="panel">
      <legend class="hidden">The week</legend>
      <label class="all"><input v-model="form.always" type="checkbox" /> Day and night, every day</label>
      <template v-if="!form.always">
        <template v-for="(d, i) in days" :key="d">
          <label :for="`day-${i}`">{{ d }}</label>
          <input
            :id="`day-${i}`"
            v-model="form.week[i]"
            placeholder="closed"
            :aria-invalid="!!wrong(i)"
            :aria-describedby="wrong(i) ? `day-${i}-fault` : undefined"
            :class="{ wrong: wrong(i) }"
          />
          <p v-if="wrong(i)" :id="`day-${i}-fault`" class="all fault small">{{ wrong(i) }}</p>
        </template>
        <p class="all faded small">
          Such as 8–12, 13–18. A span over midnight, such as 22–6, ends the next day.
        </p>
      </template>
      <label for="zone">Time zone</label>
      <input id="zone" v-model="form.zone" :placeholder="zone" />
      <label for="away">Away until</label>
      <input id="away" v-model="form.away" type="datetime-local" />
      <template v-if="opening.kind === 'site'">
        <template v-if="opening.languages.length > 1">
          <span id="said-in">What the bot says, in</span>
          <Choice
            v-model="language"
            small
            aria-labelledby="said-in"
            :options="opening.languages.map((l) => ({ value: l, label: l }))"
          />
        </template>
        <template v-for="s in said" :key="s.key">
          <label :for="`said-${s.key}`">{{ s.label }}</label>
          <textarea
            :id="`said-${s.key}`"
            v-model="form[s.key][language]"
            rows="2"
            maxlength="500"
            placeholder="what the bot says by itself"
          />
        </template>
      </template>
    </fieldset>
    <p v-if="refused" class="fault" role="alert">{{ refused.message }}</p>
    <Button v-if="mayChange" type="primary" html-type="submit" :loading="busy">Keep</Button>
  </form>
  <template v-if="opening.kind === 'team'">
    <h2>Who is here</h2>
    <p v-if="!opening.agents.length" class="fault">Nobody is in this team: nobody is ever passed on to it.</p>
    <ul class="plainlist agents">
      <li v-for="a in opening.agents" :key="a.id">
        <label>
          <input
            type="checkbox"
            :checked="a.here"
            :disabled="!may('administer')"
            @change="(e) => setPresence(a, (e.target as HTMLInputElement).checked, a.chats)"
          />
          {{ a.name }}
        </label>
        <span class="faded small">
          {{ a.here ? 'here' : 'away' }}; holds {{ a.holds
          }}{{ a.chats ? ` of ${a.chats} chats` : a.holds === 1 ? ' chat' : ' chats' }}
        </span>
      </li>
    </ul>
  </template>
</template>

<style scoped>
fieldset {
  display: grid;
  grid-template-columns: 12rem minmax(0, 22rem);
  gap: 0.35rem 1rem;
  align-items: center;
  padding: 0.9rem 1.1rem;
  margin: 0 0 0.8rem;
}
.all {
  grid-column: 1 / -1;
  margin: 0;
}
input:not([type='checkbox']),
textarea {
  font: inherit;
  padding: 0.15rem 0.5rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: #fff;
}
.wrong {
  border-color: var(--rubric) !important;
}
.agents li {
  display: flex;
  gap: 1rem;
  padding: 0.2rem 0;
}
</style>
