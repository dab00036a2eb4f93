<script setup lang="ts">
import { Drawer } from 'ant-design-vue'
import { useMediaQuery } from '@vueuse/core'
import { onMounted, ref } from 'vue'
import Layer from './Layer.vue'

/** The three columns: index, page and margin. The margin folds to a drawer when narrow. */
defineProps<{
  marginTitle?: string
  wideIndex?: boolean
  together?: boolean // the page and its margin scroll as one, so that notes stay at their lines
}>()
const narrow = useMediaQuery('(max-width: 1099px)')
const open = ref(false)
const page = ref<HTMLElement>()
// Whoever came here by a link or a key goes on from the page, not from its very top.
onMounted(() => document.activeElement === document.body && page.value?.focus({ preventScroll: true }))
</script>

<template>
  <div
    class="frame"
    :class="{ index: $slots.index, margin: $slots.margin && !narrow, wide: wideIndex, together }"
  >
    <aside v-if="$slots.index" class="column left" aria-label="Index"><slot name="index" /></aside>
    <main id="main" ref="page" class="column page" tabindex="-1">
      <p v-if="$slots.margin && narrow" class="unfold">
        <button type="button" class="quiet" @click="open = true">{{ marginTitle ?? 'Margin' }}</button>
      </p>
      <slot />
    </main>
    <aside v-if="$slots.margin && !narrow" class="column right" :aria-label="marginTitle ?? 'Margin'">
      <slot name="margin" />
    </aside>
    <Drawer v-if="$slots.margin && narrow" v-model:open="open" :title="marginTitle" :width="360">
      <Layer :open="open"><slot name="margin" /></Layer>
    </Drawer>
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  height: calc(100vh - 48px);
}
.frame.index {
  grid-template-columns: 232px minmax(0, 1fr);
}
.frame.index.wide {
  grid-template-columns: 290px minmax(0, 1fr);
}
.frame.margin {
  grid-template-columns: minmax(0, 1fr) 312px;
}
.frame.index.margin {
  grid-template-columns: 232px minmax(0, 1fr) 312px;
}
.frame.index.wide.margin {
  grid-template-columns: 290px minmax(0, 1fr) 312px;
}
.column {
  overflow-y: auto;
  min-height: 0;
}
.frame.together {
  overflow-y: auto;
  grid-template-rows: max-content;
}
.together .column {
  overflow: visible;
}
.together .left {
  position: sticky;
  top: 0;
  max-height: calc(100vh - 48px);
  overflow-y: auto;
}
.together .right {
  min-height: calc(100vh - 48px);
}
.left {
  padding: 1.1rem 0.9rem 2rem 1.25rem;
  border-right: 1px solid var(--rule);
}
.page {
  padding: 1.4rem 1.9rem 3rem;
}
.page:focus {
  outline: none;
}
.right {
  padding: 1.2rem 1.25rem 3rem;
  border-left: 1px solid var(--rule);
}
.unfold {
  margin: -0.6rem 0 0.4rem;
  text-align: right;
}
</style>
