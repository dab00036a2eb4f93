<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import type { Schemas } from './api/client'
import { onVisibleFor } from './visible'

/** An answer that the bot told, word for word as it stands in articles, each passage with its source. */
const props = defineProps<{ told: Schemas['ToldAnswer'] }>()
const emit = defineEmits<{ open: [reference: string]; read: [seconds: number] }>()
const body = ref<HTMLElement>()
let stop: (() => void) | undefined

type Block = Schemas['Passage']['blocks'][number]
/** Steps and items that follow each other are a list. */
function lists(blocks: Block[]) {
  const out: { tag: 'ol' | 'ul' | 'p'; texts: string[] }[] = []
  for (const b of blocks) {
    const tag = b.kind === 'step' ? 'ol' : b.kind === 'item' ? 'ul' : 'p'
    const last = out.at(-1)
    if (last && last.tag === tag && tag !== 'p') last.texts.push(b.text)
    else out.push({ tag, texts: [b.text] })
  }
  return out
}
const passages = computed(() => props.told.passages.map((p) => ({ ...p, lists: lists(p.blocks) })))

onMounted(() => {
  if (body.value) stop = onVisibleFor(body.value, props.told.read_seconds, (seconds) => emit('read', seconds))
})
onUnmounted(() => stop?.())
</script>

<template>
  <div v-if="passages.length" ref="body" class="told">
    <blockquote v-for="(p, i) in passages" :key="i">
      <p v-if="p.heading" class="heading">{{ p.heading }}</p>
      <component :is="l.tag" v-for="(l, n) in p.lists" :key="n">
        <template v-if="l.tag === 'p'">{{ l.texts[0] }}</template>
        <template v-else>
          <li v-for="(text, k) in l.texts" :key="k">{{ text }}</li>
        </template>
      </component>
      <footer>
        — <button type="button" @click="emit('open', p.reference)">{{ p.title }}</button>
      </footer>
    </blockquote>
  </div>
</template>

<style scoped>
.told {
  margin: 0.4rem 0;
}
blockquote {
  margin: 0 0 0.6rem;
  padding: 0.5rem 0.8rem;
  background: var(--leaf);
  border: 1px solid var(--rule);
  border-radius: 4px;
  font-family: var(--text-face);
}
p,
ol,
ul {
  margin: 0 0 0.4rem;
}
.heading {
  font-weight: 600;
}
footer {
  color: var(--faded);
  font-size: 0.9em;
}
footer button {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  text-align: left;
  text-decoration: underline;
  cursor: pointer;
}
</style>
