<script setup lang="ts">
import { computed } from 'vue'
import { api, call } from '../../shared/api/client'
import { ago, counted, day, exact, percent } from '../../shared/format'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import RangeBar from '../shared/RangeBar.vue'
import { useFresh, useLoad } from '../shared/load'
import { useStillTrue } from '../review/stillTrue'
import { who } from '../session'

const {
  value: today,
  error,
  reload,
} = useLoad(
  () => who.value?.id,
  () => call(api.GET('/api/staff/today')),
)

useFresh(reload)

const stillTrue = useStillTrue(reload)

const nothing = computed(() => {
  const t = today.value
  return (
    t &&
    !t.waiting.length &&
    !t.flows.length &&
    !t.to_review.length &&
    !t.to_publish.length &&
    !t.sent_back.length &&
    !t.stuck.length &&
    !t.feedback.length &&
    !t.rechecks.length &&
    !t.neglected.length &&
    !t.contacts.length
  )
})
const moved = computed(() => {
  const m = today.value?.figures?.moved
  if (!m) return ''
  const sure = m.low > 0 || m.high < 0
  const by = `${m.value >= 0 ? '+' : '−'}${Math.abs(100 * m.value).toFixed(1)} points`
  return sure ? `${by} against the seven days before` : `${by} against the seven days before: within chance`
})
</script>

<template>
  <Frame margin-title="The figure">
    <h1>Today</h1>
    <Failed v-if="error" :error="error" @retry="reload" />
    <template v-if="today">
      <p v-if="nothing" class="empty">
        Nothing waits for you. What needs you will stand here, worst first: customers waiting, reviews,
        articles that are read and still followed by a contact.
        <RouterLink to="/library">Open the library</RouterLink>
      </p>
      <section v-if="today.waiting.length">
        <h2>{{ counted(today.waiting.length, 'customer waits', 'customers wait') }} for a person</h2>
        <ul class="lines">
          <li v-for="w in today.waiting.slice(0, 6)" :key="w.reference">
            <span class="what"
              >{{ w.subject || 'No subject' }}
              <span class="faded">{{ w.customer }}, {{ w.team || 'any team' }}</span></span
            >
            <span class="faded" :title="exact(w.waiting_since)">{{ ago(w.waiting_since) }}</span>
            <RouterLink :to="`/conversations/${w.reference}`">Answer {{ w.reference }}</RouterLink>
          </li>
        </ul>
        <p v-if="today.waiting.length > 6">
          <RouterLink to="/conversations">All {{ today.waiting.length }}</RouterLink>
        </p>
      </section>
      <section v-if="today.flows.length">
        <h2>{{ counted(today.flows.length, 'live flow has', 'live flows have') }} errors</h2>
        <ul class="lines">
          <li v-for="f in today.flows" :key="f.slug">
            <span class="what"
              >{{ f.name }}
              <span class="faded">{{ counted(f.faults, 'error', 'errors') }}; {{ f.owner }}’s</span></span
            >
            <span class="faded" :title="exact(f.faults_since ?? '')">{{ ago(f.faults_since ?? '') }}</span>
            <RouterLink :to="`/flows/${f.slug}`">Mend it</RouterLink>
          </li>
        </ul>
      </section>
      <section v-if="today.stuck.length">
        <h2>Stuck: nobody can pass the gate</h2>
        <ul class="lines">
          <li v-for="a in today.stuck" :key="a.reference">
            <span class="what"
              >{{ a.title }} <span class="faded">needs {{ a.who }}</span></span
            >
            <RouterLink to="/settings">People</RouterLink>
            <RouterLink :to="`/review/${a.reference}`">Look {{ a.reference }}</RouterLink>
          </li>
        </ul>
      </section>
      <section v-if="today.to_review.length">
        <h2>{{ counted(today.to_review.length, 'text') }} to review</h2>
        <ul class="lines">
          <li v-for="a in today.to_review" :key="a.reference">
            <span class="what"
              >{{ a.title }} <span class="faded">by {{ a.writer }}</span>
              <strong v-if="a.overdue" class="fault"> overdue</strong></span
            >
            <span class="faded" :title="exact(a.since)">{{ ago(a.since) }}</span>
            <RouterLink :to="`/review/${a.reference}`">Review {{ a.reference }}</RouterLink>
          </li>
        </ul>
      </section>
      <section v-if="today.to_publish.length">
        <h2>{{ counted(today.to_publish.length, 'approved text') }} to publish</h2>
        <ul class="lines">
          <li v-for="a in today.to_publish" :key="a.reference">
            <span class="what">{{ a.title }}</span>
            <span class="faded">{{ a.category }}</span>
            <RouterLink :to="`/review/${a.reference}`">Publish {{ a.reference }}</RouterLink>
          </li>
        </ul>
      </section>
      <section v-if="today.sent_back.length">
        <h2>Sent back to you</h2>
        <ul class="lines">
          <li v-for="a in today.sent_back" :key="a.reference">
            <span class="what"
              >{{ a.title }} <span class="faded note">“{{ a.note }}”</span></span
            >
            <span />
            <RouterLink :to="`/library/${a.reference}`">Mend {{ a.reference }}</RouterLink>
          </li>
        </ul>
      </section>
      <section v-if="today.feedback.length">
        <h2>{{ counted(today.feedback.length, 'reader waits', 'readers wait') }} for your answer</h2>
        <ul class="lines">
          <li v-for="f in today.feedback.slice(0, 6)" :key="f.id">
            <span class="what"
              >“{{ f.text }}” <span class="faded">of {{ f.title }}</span></span
            >
            <span class="faded" :title="exact(f.at)">{{ ago(f.at) }}</span>
            <RouterLink :to="`/library/${f.reference}?margin=remarks`">Answer {{ f.reference }}</RouterLink>
          </li>
        </ul>
      </section>
      <section v-if="today.rechecks.length || today.neglected.length">
        <h2>Still true?</h2>
        <ul class="lines">
          <li v-for="a in [...today.rechecks, ...today.neglected].slice(0, 8)" :key="a.reference">
            <span class="what"
              ><RouterLink :to="`/library/${a.reference}`">{{ a.title }}</RouterLink>
              <span class="faded">
                due {{ day(a.recheck_on)
                }}<template v-if="a.owner !== who?.name">, {{ a.owner }}’s</template></span
              ></span
            >
            <RouterLink :to="`/library/${a.reference}`">Look again</RouterLink>
            <button type="button" class="quiet left" @click="stillTrue(a.reference)">
              Still true {{ a.reference }}
            </button>
          </li>
        </ul>
        <p v-if="today.rechecks.length > 8">
          <RouterLink :to="`/library?overdue=true&owner=${who?.id}`">All that are due</RouterLink>
        </p>
      </section>
      <section v-if="today.contacts.length">
        <h2>Read last, and still a contact</h2>
        <ul class="lines">
          <li v-for="c in today.contacts" :key="c.reference">
            <span class="what"
              >{{ c.title }}
              <span class="faded"
                >{{ c.share.count }} of {{ c.share.of }} questions, {{ percent(c.share.low) }} to
                {{ percent(c.share.high) }}</span
              ></span
            >
            <RouterLink :to="{ path: '/outcomes', query: { article: c.reference } }">Questions</RouterLink>
            <RouterLink :to="`/library/${c.reference}`">Open {{ c.reference }}</RouterLink>
          </li>
        </ul>
      </section>
    </template>
    <template v-if="today?.figures" #margin>
      <h2 class="first">Answered without a person</h2>
      <p class="figure">
        <strong>{{
          today.figures.rates.deflection.of ? percent(today.figures.rates.deflection.value) : '–'
        }}</strong>
        <span class="faded">
          of {{ counted(today.figures.rates.deflection.of, 'settled question') }} in seven days</span
        >
      </p>
      <RangeBar :rates="today.figures.rates" small />
      <p class="small faded">
        Proven {{ percent(today.figures.rates.proven.value) }}, claimed
        {{ percent(today.figures.rates.claimed.value) }}.
        {{ counted(today.figures.counts.settling, 'question') }} still settling.
      </p>
      <p v-if="moved" class="small">{{ moved }}.</p>
      <p><RouterLink to="/outcomes">See what it is made of</RouterLink></p>
    </template>
  </Frame>
</template>

<style scoped>
.lines {
  list-style: none;
  margin: 0;
  padding: 0;
  background: var(--leaf);
  border: 1px solid var(--rule);
  border-radius: 4px;
}
.lines li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 7.5rem 8.5rem;
  gap: 1rem;
  align-items: baseline;
  padding: 0.5rem 0.9rem;
  border-top: 1px solid var(--rule);
}
.lines li:first-child {
  border-top: 0;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
}
.what .faded {
  margin-left: 0.4rem;
}
.left {
  text-align: left;
}
.first {
  margin-top: 0;
}
.figure strong {
  font: 600 2.4rem var(--text-face);
}
.figure span {
  display: block;
}
.small {
  margin: 0.7rem 0;
}
</style>
