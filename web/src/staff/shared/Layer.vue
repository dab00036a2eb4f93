<script setup lang="ts">
import { useLayer } from './keys'

/** What lies over the page: while it is open, keys mean what is in it and nothing beneath. */
const props = defineProps<{ open: boolean }>()
useLayer(() => props.open)
</script>

<template><slot /></template>
