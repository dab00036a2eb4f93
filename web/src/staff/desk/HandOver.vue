<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import Choice from '../shared/Choice.vue'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'

/** Everything that somebody looks after, given to others in one go. */
const props = defineProps<{ id: string }>()
const { act, busy, refused } = useAct()
const path = computed(() => ({ params: { path: { id: Number(props.id) } } }))
const {
  value: has,
  error,
  reload,
} = useLoad(
  () => props.id,
  () => call(api.GET('/api/staff/people/{id}/belongings', path.value)),
)
const people = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/people')),
)
const form = reactive({
  owner: 0,
  owners: {} as Record<number, number>,
  reviewer: 0,
  steward: 0,
  disable: false,
})
watch(has, (b) => b && (form.disable = !b.person.disabled))
const others = (none: string) => [
  { value: 0, label: none },
  ...(people.value.value ?? [])
    .filter((p) => !p.disabled && p.id !== Number(props.id))
    .map((p) => ({ value: p.id, label: p.name })),
]
const nothing = computed(
  () =>
    has.value &&
    !has.value.articles.length &&
    !has.value.reviews.length &&
    !has.value.gates.length &&
    !has.value.categories.length &&
    !has.value.feedback,
)
const total = computed(() => (has.value?.articles ?? []).reduce((n, a) => n + a.count, 0))
const done = ref<Schemas['HandedOver']>()

async function go() {
  const ok = await act(async () => {
    done.value = await call(
      api.POST('/api/staff/people/{id}/hand-over', {
        ...path.value,
        body: {
          owner: form.owner,
          owners: Object.entries(form.owners)
            .filter(([, owner]) => owner)
            .map(([category, owner]) => ({ category_id: Number(category), owner_id: owner })),
          reviewer: form.reviewer,
          steward: form.steward,
          disable: form.disable,
        },
      }),
    )
  })
  if (ok) await reload()
}
</script>

<template>
  <Frame>
    <p class="crumbs small"><RouterLink to="/settings">Settings</RouterLink> › Hand over</p>
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="has">
      <h1>Hand over what {{ has.person.name }} looks after</h1>
      <div v-if="done" class="panel done" role="status">
        <p>
          Handed over: {{ counted(done.articles, 'article') }}, {{ counted(done.reviews, 'review') }},
          {{ counted(done.gates, 'gate') }} and {{ counted(done.categories, 'category', 'categories') }}.
        </p>
        <p v-for="l in done.left" :key="l" class="small">{{ l }}</p>
      </div>
      <p v-if="nothing" class="empty">
        {{ has.person.name }} owns nothing, reviews nothing and is steward of nothing.
        <template v-if="has.person.disabled">They cannot sign in any more.</template>
      </p>
      <form @submit.prevent="go">
        <section v-if="has.articles.length">
          <h2>{{ counted(total, 'article') }}</h2>
          <div class="line">
            <label for="owner">All of them go to</label>
            <Choice id="owner" v-model="form.owner" :options="others('Choose the new owner…')" />
          </div>
          <p v-if="refused?.field('owner')" class="fault small">{{ refused.field('owner') }}</p>
          <div v-for="a in has.articles" :key="a.category.id" class="line">
            <label :for="`owner-${a.category.id}`"
              ><RouterLink :to="`/library?owner=${id}&category=${a.category.id}`">{{
                a.category.name
              }}</RouterLink>
              <span class="faded small">{{ counted(a.count, 'article') }}</span></label
            >
            <Choice
              :id="`owner-${a.category.id}`"
              :model-value="form.owners[a.category.id] ?? 0"
              :options="others('the same')"
              @chosen="(v) => (form.owners[a.category.id] = v)"
            />
          </div>
        </section>
        <section v-if="has.reviews.length || has.gates.length">
          <h2>Reviewing</h2>
          <ul class="small">
            <li v-for="r in has.reviews" :key="r.reference">
              Asked to decide about <RouterLink :to="`/review/${r.reference}`">{{ r.title }}</RouterLink>
            </li>
            <li v-for="g in has.gates" :key="g.path + g.gate">
              Named at the gate “{{ g.gate }}” of {{ g.path }}
            </li>
          </ul>
          <div class="line">
            <label for="reviewer">In their place</label>
            <Choice id="reviewer" v-model="form.reviewer" :options="others('Choose the new reviewer…')" />
          </div>
          <p v-if="refused?.field('reviewer')" class="fault small">{{ refused.field('reviewer') }}</p>
        </section>
        <section v-if="has.categories.length">
          <h2>Steward of {{ has.categories.map((c) => c.name).join(', ') }}</h2>
          <div class="line">
            <label for="steward">The new steward</label>
            <Choice id="steward" v-model="form.steward" :options="others('Choose the new steward…')" />
          </div>
          <p v-if="refused?.field('steward')" class="fault small">{{ refused.field('steward') }}</p>
        </section>
        <p v-if="has.feedback" class="small">
          {{ counted(has.feedback, 'reader’s comment', 'readers’ comments') }} passed on to them go to the new
          owner.
        </p>
        <p v-if="has.schedules" class="small">
          {{ counted(has.schedules, 'time') }} they set to publish or withdraw something stay as set.
        </p>
        <label v-if="!has.person.disabled" class="line one"
          ><input v-model="form.disable" type="checkbox" /> {{ has.person.name }} cannot sign in any
          more</label
        >
        <p v-if="refused" class="fault" role="alert">{{ refused.problem.detail }}</p>
        <Button v-if="!nothing || !has.person.disabled" type="primary" html-type="submit" :loading="busy"
          >Hand it over</Button
        >
      </form>
    </template>
  </Frame>
</template>

<style scoped>
.crumbs {
  margin: 0 0 0.5rem;
}
form {
  max-width: 44rem;
}
.line {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 16rem;
  gap: 1rem;
  align-items: center;
  padding: 0.25rem 0;
}
.one {
  display: block;
  margin: 1rem 0;
}
.done {
  padding: 0.6rem 0.9rem;
  margin: 0.7rem 0;
}
.done p {
  margin: 0;
}
</style>
