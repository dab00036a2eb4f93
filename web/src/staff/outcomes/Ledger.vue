<script setup lang="ts">
import type { Schemas } from '../../shared/api/client'
import { ago, exact } from '../../shared/format'
import { channels } from '../../shared/words'
import OutcomeChip from './OutcomeChip.vue'
import Pages from '../shared/Pages.vue'

/** Questions, one a line; each opens to its evidence. */
defineProps<{ items: Schemas['LedgerLine'][]; total: number; page: number }>()
defineEmits<{ page: [n: number] }>()
</script>

<template>
  <table v-if="items.length" class="panel">
    <thead>
      <tr>
        <th scope="col">Asked</th>
        <th scope="col">Outcome</th>
        <th scope="col">Where</th>
        <th scope="col">Ended with</th>
        <th scope="col">Closed</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="q in items" :key="q.key">
        <td class="asked">
          <RouterLink :to="`/outcomes/question/${encodeURIComponent(q.key)}`">{{
            q.asked || 'Without words'
          }}</RouterLink>
        </td>
        <td>
          <OutcomeChip :outcome="q.outcome" :settling="q.settling" />
          <span v-if="q.asked_again" class="faded small"> asked again</span>
          <span v-if="q.not_followed" class="faded small"> not followed</span>
        </td>
        <td>{{ q.channels.map((c) => channels[c] ?? c).join(', ') }}</td>
        <td>
          <RouterLink v-if="q.article" :to="`/library/${q.article}`">{{ q.article }}</RouterLink>
        </td>
        <td class="faded" :title="`Began ${exact(q.began)}`">{{ q.closed ? ago(q.closed) : 'not yet' }}</td>
      </tr>
    </tbody>
  </table>
  <p v-else class="empty">No question fits. Take a filter away, or choose other days.</p>
  <Pages :page="page" :total="total" @page="(n) => $emit('page', n)" />
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--faded);
  padding: 0.4rem 0.8rem;
}
td {
  padding: 0.35rem 0.8rem;
  border-top: 1px solid var(--rule);
  vertical-align: top;
}
.asked {
  max-width: 22rem;
  overflow-wrap: anywhere;
}
.pages {
  margin-top: 1rem;
}
</style>
