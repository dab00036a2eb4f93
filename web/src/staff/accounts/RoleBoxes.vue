<script setup lang="ts">
/** Any of several roles. */
const props = defineProps<{ roles: string[]; label: string }>()
const chosen = defineModel<string[]>({ required: true })

function toggle(role: string) {
  const has = chosen.value.includes(role)
  chosen.value = props.roles.filter((r) => (r === role ? !has : chosen.value.includes(r)))
}
</script>

<template>
  <fieldset class="row small">
    <legend class="hidden">{{ label }}</legend>
    <label v-for="r in roles" :key="r"
      ><input type="checkbox" :checked="chosen.includes(r)" @change="toggle(r)" /> {{ r }}</label
    >
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  gap: 0 0.8rem;
}
input {
  accent-color: var(--rubric);
}
</style>
