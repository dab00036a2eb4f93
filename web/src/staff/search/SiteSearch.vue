<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { useRoute } from 'vue-router'
import { api, call } from '../../shared/api/client'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import SearchJudged from './SearchJudged.vue'
import SearchRules from './SearchRules.vue'
import SearchTry from './SearchTry.vue'
import { may } from '../session'
import { useLoad } from '../shared/load'

/** What a help centre's search finds and why, what it goes by, and how well it does. */
const props = defineProps<{ site: string }>()
const route = useRoute()
const sites = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/sites')),
)
const site = computed(() => (sites.value.value ?? []).find((s) => s.id === Number(props.site)))
const part = computed(() => (route.query.part === 'quality' ? 'quality' : 'try'))
const mayChange = may('tune_search')
const trying = useTemplateRef('trying')
const rules = useTemplateRef('rules')
</script>

<template>
  <Frame margin-title="What it goes by">
    <p class="small">
      <RouterLink to="/settings">Settings</RouterLink> ›
      <RouterLink to="/settings/sites">Help centres</RouterLink>
    </p>
    <Failed v-if="sites.error.value" :error="sites.error.value" @retry="sites.reload" />
    <template v-if="site">
      <h1>Search of {{ site.name }}</h1>
      <nav class="leaves" aria-label="Search">
        <RouterLink
          :to="{ query: { ...route.query, part: undefined } }"
          :aria-current="part === 'try' ? 'page' : undefined"
          >Try a question</RouterLink
        >
        <RouterLink
          :to="{ query: { ...route.query, part: 'quality' } }"
          :aria-current="part === 'quality' ? 'page' : undefined"
          >How well it does</RouterLink
        >
      </nav>
      <SearchTry
        v-if="part === 'try'"
        ref="trying"
        :site="site.id"
        :languages="site.languages"
        :may-change="mayChange"
        @changed="rules?.reload()"
      />
      <SearchJudged v-else :key="site.id" :site="site.id" />
    </template>
    <p v-else-if="sites.value.value" class="empty">There is no such help centre.</p>
    <template v-if="site" #margin>
      <SearchRules ref="rules" :site="site.id" :may-change="mayChange" @changed="trying?.reload()" />
    </template>
  </Frame>
</template>

<style scoped>
.leaves {
  display: flex;
  gap: 1.4rem;
  border-bottom: 1px solid var(--rule);
  margin-bottom: 1rem;
}
.leaves a {
  padding: 0.3rem 0;
}
.leaves a[aria-current] {
  color: var(--ink);
  border-bottom: 2px solid var(--rubric);
}
</style>
