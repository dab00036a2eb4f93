<script setup lang="ts">
import { Pagination } from 'ant-design-vue'
import { computed } from 'vue'
import { who } from '../session'

/** The pages of a list; nothing where there is only one. */
defineProps<{ page: number; total: number }>()
const emit = defineEmits<{ page: [n: number] }>()
const size = computed(() => who.value?.rules.page_size ?? 1)
</script>

<template>
  <Pagination
    v-if="total > size"
    class="pages"
    :current="page"
    :total="total"
    :page-size="size"
    :show-size-changer="false"
    @change="(n: number) => emit('page', n)"
  />
</template>
