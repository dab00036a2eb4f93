<script setup lang="ts">
import { api, call, type Schemas } from '../../shared/api/client'
import { states } from '../../shared/words'
import SpanWords from '../shared/SpanWords.vue'
import { useLoad } from '../shared/load'

/** The texts of a batch, with what each changes. */
const props = defineProps<{ members: Schemas['BatchMember'][]; changeable: boolean }>()
const emit = defineEmits<{ takeOut: [reference: string] }>()
const changes = useLoad(
  () => props.members.map((m) => m.reference + m.version),
  () =>
    Promise.all(
      props.members.map(async (m) => ({
        reference: m.reference,
        live: m.live,
        changed: await call(
          api.GET('/api/staff/articles/{reference}/changes', {
            params: { path: { reference: m.reference } },
          }),
        ),
      })),
    ),
)
</script>

<template>
  <ul class="plainlist">
    <li v-for="m in members" :key="m.reference" class="panel member">
      <div class="row spread">
        <span>
          <RouterLink :to="`/review/${m.reference}`" class="title">{{ m.title || 'Untitled' }}</RouterLink>
          <span class="faded small"
            >{{ m.reference }} · {{ states[m.state] }}<template v-if="m.gate"> at “{{ m.gate }}”</template
            ><strong v-if="m.mine"> · yours to pass</strong></span
          >
        </span>
        <button v-if="changeable" type="button" class="quiet small" @click="emit('takeOut', m.reference)">
          Take out
        </button>
      </div>
      <p v-if="m.state === 'sent_back'" class="small">“{{ m.decision_note }}”</p>
      <details v-if="changes.value.value" class="small">
        <summary>{{ m.live ? 'What changes' : 'All of it is new' }}</summary>
        <template
          v-for="c in changes.value.value.filter((x) => x.reference === m.reference)"
          :key="c.reference"
        >
          <p class="title"><SpanWords :spans="c.changed.title" /></p>
          <div class="prose compared" v-html="c.changed.body.html" />
        </template>
      </details>
    </li>
  </ul>
</template>

<style scoped>
.member {
  padding: 0.55rem 0.9rem;
  margin-bottom: 0.5rem;
}
.member .faded {
  margin-left: 0.5rem;
}
.title {
  font-family: var(--text-face);
}
p.title {
  font-size: 1.2rem;
}
</style>
