<script setup lang="ts">
import { Button, Input, Textarea } from 'ant-design-vue'
import { reactive, watch } from 'vue'
import Dialog from '../shared/Dialog.vue'

/** What a picture shows, in words, and its caption. The words are required. */
const props = defineProps<{ src: string; alt: string; caption: string; withCaption: boolean }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ done: [alt: string, caption: string] }>()
const form = reactive({ alt: '', caption: '', missing: false })

watch(open, (now) => now && Object.assign(form, { alt: props.alt, caption: props.caption, missing: false }))

function done() {
  form.missing = !form.alt.trim()
  if (form.missing) return
  open.value = false
  emit('done', form.alt.trim(), form.caption.trim())
}
</script>

<template>
  <Dialog v-model:open="open" title="The picture">
    <form class="fields" @submit.prevent="done">
      <img :src="src" alt="The picture that is added" />
      <label for="picture-alt">What does it show? It is read out to people who cannot see it.</label>
      <Textarea id="picture-alt" v-model:value="form.alt" :rows="2" :maxlength="300" />
      <p v-if="form.missing" class="fault" role="alert">
        Say what it shows: a picture without words is lost to some readers.
      </p>
      <template v-if="withCaption">
        <label for="picture-caption">Caption beneath it, if it needs one</label>
        <Input id="picture-caption" v-model:value="form.caption" :maxlength="300" />
      </template>
      <div class="row go">
        <Button type="primary" html-type="submit">Put it in</Button>
        <Button @click="open = false">Cancel</Button>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
img {
  max-width: 100%;
  max-height: 220px;
  border: 1px solid var(--rule);
}
.fields {
  display: grid;
  gap: 0.3rem;
  justify-items: start;
}
.fields > :not(img, .row) {
  justify-self: stretch;
}
label {
  margin-top: 0.5rem;
}
.go {
  margin-top: 1rem;
}
</style>
