<script setup lang="ts">
import { Textarea } from 'ant-design-vue'
import type { Schemas } from '../../shared/api/client'

/** Whether a help centre asks before it keeps a key in a browser, and with which words. */
defineProps<{ languages: Record<string, string>; fault?: string }>()
const site = defineModel<Schemas['Site']>({ required: true })
function say(code: string, words: string) {
  site.value.follow_words = { ...site.value.follow_words, [code]: words }
}
</script>

<template>
  <fieldset>
    <legend>Being known from page to page</legend>
    <label
      ><input v-model="site.asks_to_follow" type="checkbox" /> Ask before a key is kept in a browser</label
    >
    <template v-if="site.asks_to_follow">
      <p class="small faded">
        Who says no is served in full; what they ask is counted, and marked. Leave the words empty for the
        usual ones.
      </p>
      <template v-for="code in site.languages" :key="code">
        <label :for="`site-follow-${code}`">Words, {{ languages[code] ?? code }}</label>
        <Textarea
          :id="`site-follow-${code}`"
          :value="site.follow_words?.[code] ?? ''"
          :rows="2"
          :maxlength="600"
          @update:value="(words: string) => say(code, words)"
        />
      </template>
      <p v-if="fault" class="fault">{{ fault }}</p>
    </template>
  </fieldset>
</template>
