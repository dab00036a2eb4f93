<script setup lang="ts">
import type { Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'

/** What an article going live, or going away, touches. */
defineProps<{ impact: Schemas['Impact']; title?: string; away?: boolean }>()
</script>

<template>
  <section class="impact" :aria-label="title ?? 'What this touches'">
    <h2 class="sub">{{ title ?? 'What this touches' }}</h2>
    <div v-if="impact.conflicts.length" class="fault" role="alert">
      <p v-for="c in impact.conflicts" :key="c">{{ c }}</p>
    </div>
    <p v-if="impact.comments && !away" class="open" role="status">
      <strong
        >{{ counted(impact.comments, 'comment') }} on this text
        {{ impact.comments === 1 ? 'is' : 'are' }} open.</strong
      >
      Publishing leaves {{ impact.comments === 1 ? 'it' : 'them' }} so.
    </p>
    <ul class="plainlist small">
      <li v-if="impact.changes">{{ impact.changes }}</li>
      <li v-for="f in impact.flows" :key="f.slug + f.turn">
        The flow <RouterLink to="/flows">{{ f.name }}</RouterLink> shows it, in its turn “{{ f.turn }}”.
      </li>
      <li v-if="impact.linked_by.length">
        {{ counted(impact.linked_by.length, 'live article points', 'live articles point') }} to it:
        <template v-for="(l, i) in impact.linked_by.slice(0, 5)" :key="l.reference"
          ><template v-if="i">, </template
          ><RouterLink :to="`/library/${l.reference}`">{{ l.title }}</RouterLink></template
        ><template v-if="impact.linked_by.length > 5"> and more</template>.
      </li>
      <li v-for="l in impact.unlive" :key="l.reference">
        It points to <RouterLink :to="`/library/${l.reference}`">{{ l.title }}</RouterLink>, which some of its
        readers cannot open.
      </li>
      <li v-if="impact.behind.length && !away">
        The editions in {{ impact.behind.join(' and ') }} fall behind.
      </li>
      <li v-if="impact.sites.length">
        Shown in {{ impact.sites.map((s) => s.name).join(', ')
        }}<template v-if="impact.feeds.length"
          >; in the feed of {{ impact.feeds.map((f) => f.name).join(', ') }}</template
        >.
      </li>
      <li v-else>No help centre shows its category.</li>
      <li v-if="!impact.flows.length && !impact.linked_by.length" class="faded">
        No flow shows it, and no live article points to it.
      </li>
    </ul>
  </section>
</template>

<style scoped>
.impact li {
  margin-bottom: 0.2rem;
}
.fault p {
  margin: 0 0 0.4rem;
}
.open {
  margin: 0 0 0.4rem;
  padding-left: 0.6rem;
  border-left: 3px solid var(--ochre);
}
</style>
