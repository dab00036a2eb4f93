<script setup lang="ts">
import { ref, watch } from 'vue'
import { readDay, shownDay } from '../../shared/days'

/** A day, or with a time a moment on the clocks of a help centre: typed, or chosen from the calendar. */
const props = defineProps<{
  id: string
  time?: boolean // the value is such as 2026-03-02T09:30, else such as 2026-03-02
  min?: string
  max?: string
  disabled?: boolean
  required?: boolean
  small?: boolean
}>()
const chosen = defineModel<string>({ required: true })
const emit = defineEmits<{ chosen: [value: string] }>()
const typed = ref('')
const fault = ref('')
const field = ref<HTMLInputElement>()
const calendar = ref<HTMLInputElement>()

watch(
  chosen,
  (now) => {
    typed.value = shownDay(now, props.time)
    fault.value = ''
    field.value?.setCustomValidity('')
  },
  { immediate: true },
)

// What was mended is said no longer at once, and not only as the field is left: nothing moves then.
watch(typed, () => fault.value && take())

function take() {
  const value = readDay(typed.value, props.time)
  const said =
    value === undefined ? `Write it as ${props.time ? '2 Mar 2026 09:30' : '2 Mar 2026'}.` : outside(value)
  fault.value = said
  field.value?.setCustomValidity(said) // what reads like no day is not sent as the day before it
  if (said || value === undefined) return
  typed.value = shownDay(value, props.time)
  if (value === chosen.value) return
  chosen.value = value
  emit('chosen', value)
}
function outside(value: string): string {
  if (value && props.min && value < props.min) return `Not before ${shownDay(props.min, props.time)}.`
  if (value && props.max && value > props.max) return `Not after ${shownDay(props.max, props.time)}.`
  return ''
}
function fromCalendar() {
  typed.value = shownDay(calendar.value?.value ?? '', props.time)
  take()
}
</script>

<template>
  <span class="day" :class="{ small, moment: time }">
    <input
      :id="id"
      ref="field"
      v-model="typed"
      :required="required"
      type="text"
      autocomplete="off"
      maxlength="40"
      :placeholder="time ? '2 Mar 2026 09:30' : '2 Mar 2026'"
      :disabled="disabled"
      :aria-invalid="fault ? true : undefined"
      :aria-describedby="fault ? `${id}-fault` : undefined"
      @change="take"
    />
    <button type="button" class="quiet" :disabled="disabled" @click="calendar?.showPicker()">Calendar</button>
    <!-- Only its calendar is used: what it would show of the day is the browser's form. -->
    <input
      ref="calendar"
      :type="time ? 'datetime-local' : 'date'"
      class="behind"
      tabindex="-1"
      aria-hidden="true"
      :value="chosen"
      :min="min"
      :max="max"
      @change="fromCalendar"
    />
    <span v-if="fault" :id="`${id}-fault`" class="fault small" role="alert">{{ fault }}</span>
  </span>
</template>

<style scoped>
.day {
  position: relative;
  display: inline-flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.1rem 0.5rem;
}
.day > input[type='text'] {
  width: 7.2rem;
  height: 32px;
  font: inherit;
  color: inherit;
  padding: 0 0.5rem;
  background: var(--leaf);
  border: 1px solid #cfc6b4;
  border-radius: 4px;
}
.moment > input[type='text'] {
  width: 10.5rem;
}
.small > input[type='text'] {
  height: 26px;
}
.day > button {
  font-size: 0.88rem;
}
.behind {
  position: absolute;
  left: 0;
  bottom: 0;
  width: 1px;
  height: 1px;
  border: 0;
  padding: 0;
  opacity: 0;
  pointer-events: none;
}
.fault {
  flex-basis: 100%;
}
</style>
