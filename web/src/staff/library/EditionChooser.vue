<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { api, call, type Schemas } from '../../shared/api/client'
import { may } from '../session'
import { useAct } from '../shared/act'
import { useLoad } from '../shared/load'
import Choice from '../shared/Choice.vue'

/** The editions of an article, and a way to begin another. */
const props = defineProps<{ article: Schemas['Article'] }>()
const emit = defineEmits<{ changed: [] }>()
const router = useRouter()
const { act } = useAct()
const sites = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/sites')),
)
const names = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/languages')),
)
const missing = computed(() => {
  const there = props.article.editions.map((e) => e.language)
  const wanted = new Set((sites.value.value ?? []).flatMap((s) => s.languages))
  return [...wanted].filter((l) => !there.includes(l))
})

async function begin(language: string) {
  if (!language) return
  await act(async () => {
    const made = await call(
      api.POST('/api/staff/articles/{reference}/editions', {
        params: { path: { reference: props.article.reference } },
        body: { language },
      }),
    )
    emit('changed')
    await router.push(`/library/${made.reference}`)
  })
}
</script>

<template>
  <span v-if="article.editions.length > 1 || missing.length" class="editions">
    <template v-if="article.editions.length > 1">
      <RouterLink
        v-for="e in article.editions"
        :key="e.reference"
        :to="`/library/${e.reference}`"
        :class="{ here: e.reference === article.reference }"
        >{{ e.name }}{{ e.behind ? ' (behind)' : '' }}</RouterLink
      >
    </template>
    <Choice
      v-if="missing.length && may('write')"
      :model-value="''"
      small
      aria-label="Begin an edition in another language"
      :options="[
        { value: '', label: 'Another language…' },
        ...missing.map((l) => ({ value: l, label: names.value.value?.[l] ?? l })),
      ]"
      @chosen="begin"
    />
  </span>
</template>

<style scoped>
.editions {
  display: flex;
  gap: 0.8rem;
  align-items: center;
}
.here {
  color: var(--ink);
  text-decoration: underline;
}
</style>
