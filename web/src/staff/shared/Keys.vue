<script setup lang="ts">
import { keyList } from './keyList'
import Dialog from './Dialog.vue'

const open = defineModel<boolean>('open', { required: true })
</script>

<template>
  <Dialog v-model:open="open" title="Keys" :width="460">
    <dl class="keys">
      <template v-for="[key, does] in keyList" :key="key">
        <dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ does }}</dd>
      </template>
    </dl>
  </Dialog>
</template>

<style scoped>
.keys {
  display: grid;
  grid-template-columns: 7rem 1fr;
  gap: 0.4rem 1rem;
  margin: 0;
}
dd {
  margin: 0;
}
kbd {
  font: inherit;
  color: var(--rubric);
}
</style>
