<script setup lang="ts">
import { Modal } from 'ant-design-vue'
import { nextTick, onUnmounted, ref, watch } from 'vue'
import Layer from './Layer.vue'

/** A dialog: it begins in its first field, and gives the focus back to where it was. */
defineProps<{ title: string; width?: number }>()
const open = defineModel<boolean>('open', { required: true })
const box = ref<HTMLElement>()
const Frames = 60 // for how long a first field is waited for, that is drawn when something has come
let before: HTMLElement | undefined

const field = () =>
  box.value?.querySelector<HTMLElement>(
    ':is(input:not([type=hidden], [type=file]), textarea, select):not(:disabled), [contenteditable=true]',
  )

watch(
  open,
  async (now) => {
    if (!now) return
    before = document.activeElement as HTMLElement
    await nextTick()
    begin(Frames)
  },
  { immediate: true },
)

/** Puts the focus into the first field, unless somebody has begun elsewhere. */
function begin(frames: number) {
  const first = field()
  const at = document.activeElement
  const begun = box.value?.contains(at) && at !== box.value
  if (!open.value || begun) return
  if (first) first.focus()
  else if (box.value?.isConnected) box.value.focus()
  if (frames && document.activeElement !== first) requestAnimationFrame(() => begin(frames - 1))
}

function giveBack() {
  const to =
    before?.isConnected && before !== document.body ? before : document.querySelector<HTMLElement>('#main')
  if (!document.activeElement || document.activeElement === document.body) to?.focus({ preventScroll: true })
}
onUnmounted(giveBack)
</script>

<template>
  <Modal
    v-model:open="open"
    :title="title"
    :footer="null"
    :width="width ?? 520"
    :focus-trigger-after-close="false"
    @after-close="giveBack"
  >
    <Layer :open="open">
      <div ref="box" tabindex="-1" class="box"><slot /></div>
    </Layer>
  </Modal>
</template>

<style scoped>
.box:focus {
  outline: none;
}
</style>
