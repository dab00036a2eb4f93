<script setup lang="ts">
import type { Schemas } from '../../shared/api/client'
import { counted, exact, percent } from '../../shared/format'

/** How far the figures are up to date, and what they rest on. */
defineProps<{ figures: Schemas['Figures'] }>()
</script>

<template>
  <p class="small faded">
    As of {{ exact(figures.as_of)
    }}<template v-if="figures.counting.waiting">, {{ Math.round(figures.counting.behind) }} s behind</template
    >.
    <template v-if="figures.counting.recount !== null">
      Everything is being counted anew, {{ percent(figures.counting.recount) }} so far; until that is done the
      figures stand as they were.
    </template>
    <template v-if="figures.older_rules">
      Until {{ exact(figures.older_rules) }} it was counted by older rules: who was seen, and what was told
      and read, is taken from what was kept then.
    </template>
    <template v-if="figures.beside.words_lost">
      {{ counted(figures.beside.words_lost, 'question') }} of this time have lost their words.
    </template>
  </p>
</template>
