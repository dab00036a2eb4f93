<script setup lang="ts">
import { Pagination } from 'ant-design-vue'

/** The pages of a list; nothing where there is only one. */
defineProps<{ page: number; total: number }>()
const emit = defineEmits<{ page: [n: number] }>()
const size = 50 // as the server pages
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
