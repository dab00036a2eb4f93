<script setup lang="ts">
import { computed } from 'vue'
import DateField from './DateField.vue'

/** A day and a time on the clocks of a help centre; asks which, of a time shown twice. */
const props = defineProps<{ zone: string; fault?: string | undefined }>()
const at = defineModel<string>('at', { required: true })
const second = defineModel<boolean>('second', { required: true })

/** The offsets that the zone has around the time: two, where clocks are put back over it. */
const twice = computed(() => {
  if (!at.value) return false
  const guess = new Date(at.value + 'Z').getTime()
  const shows = (ms: number) => {
    const parts = new Intl.DateTimeFormat('sv-SE', {
      timeZone: props.zone,
      dateStyle: 'short',
      timeStyle: 'short',
    }).format(new Date(ms))
    return parts.replace(' ', 'T') === at.value
  }
  let found = 0
  for (let q = -15 * 4; q <= 15 * 4; q++) if (shows(guess + q * 15 * 60_000)) found++
  return found > 1
})
</script>

<template>
  <div class="time">
    <label for="step-at">When, in {{ zone }}</label>
    <DateField id="step-at" v-model="at" time required />
    <p v-if="twice" class="small">
      The clocks go back on that day, and show this time twice.
      <label><input v-model="second" type="radio" :value="false" /> The first time</label>
      <label><input v-model="second" type="radio" :value="true" /> The second</label>
    </p>
    <p v-if="fault" class="fault small" role="alert">{{ fault }}</p>
  </div>
</template>

<style scoped>
.time {
  display: grid;
  gap: 0.3rem;
}
.time p {
  margin: 0;
}
</style>
