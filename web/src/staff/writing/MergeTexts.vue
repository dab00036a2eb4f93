<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { api, call } from '../../shared/api/client'
import { useLoad } from '../shared/load'
import Failed from '../shared/Failed.vue'

/** Two texts side by side, block by block, to be made one. */
const props = defineProps<{
  reference: string
  mine: string
  title: string
  newerTitle: string
  who: string
}>()
const emit = defineEmits<{ merged: [body: string, title: string] }>()
type Side = 'mine' | 'theirs' | 'both'

const {
  value: rows,
  error,
  reload,
} = useLoad(
  () => props.reference,
  () =>
    call(
      api.POST('/api/staff/articles/{reference}/side-by-side', {
        params: { path: { reference: props.reference } },
        body: { body: props.mine },
      }),
    ),
)
const titled = ref<'mine' | 'theirs'>('mine')
const chosen = reactive<Record<number, Side>>({})
watch(rows, (list) =>
  list?.forEach((r, i) => {
    if (!r.same) chosen[i] = !r.ours ? 'theirs' : 'mine'
  }),
)
const body = computed(() =>
  (rows.value ?? [])
    .map((r, i) => {
      if (r.same) return r.ours
      if (chosen[i] === 'both') return r.theirs + r.ours
      return chosen[i] === 'mine' ? r.ours : r.theirs
    })
    .join(''),
)
const sides: { value: Side; label: string }[] = [
  { value: 'mine', label: 'Mine' },
  { value: 'theirs', label: 'The newer' },
  { value: 'both', label: 'Both' },
]
</script>

<template>
  <section class="panel merge" aria-label="Two texts">
    <p>
      <strong>{{ who }} saved a newer text while yours could not be delivered.</strong> Both are here. Where
      they differ, choose what stays; nothing is lost until you do.
    </p>
    <Failed v-if="error" :error="error" @retry="reload" />
    <div class="heads small faded"><span>Yours, not saved</span><span>The newer, saved</span></div>
    <fieldset v-if="title !== newerTitle" class="differs">
      <legend class="hidden">Title</legend>
      <label
        ><input v-model="titled" type="radio" name="titled" value="mine" /> {{ title || 'Untitled' }}</label
      >
      <label
        ><input v-model="titled" type="radio" name="titled" value="theirs" />
        {{ newerTitle || 'Untitled' }}</label
      >
    </fieldset>
    <template v-for="(r, i) in rows ?? []" :key="i">
      <div v-if="r.same" class="same prose" v-html="r.ours" />
      <fieldset v-else class="differs">
        <legend class="hidden">Place {{ i + 1 }}</legend>
        <div class="prose" :class="{ out: chosen[i] === 'theirs' }" v-html="r.ours || '<p>—</p>'" />
        <div class="prose" :class="{ out: chosen[i] === 'mine' }" v-html="r.theirs || '<p>—</p>'" />
        <div class="row small choose">
          <label v-for="s in sides" :key="s.value"
            ><input v-model="chosen[i]" type="radio" :name="`place-${i}`" :value="s.value" />
            {{ s.label }}</label
          >
        </div>
      </fieldset>
    </template>
    <Button v-if="rows" type="primary" @click="emit('merged', body, titled === 'mine' ? title : newerTitle)"
      >Save the text made of both</Button
    >
  </section>
</template>

<style scoped>
.merge {
  padding: 0.8rem 1rem 1rem;
  border-left: 3px solid var(--ochre);
  margin-bottom: 1rem;
}
.heads,
.differs {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 1.2rem;
}
.prose {
  font-size: 0.97rem;
}
.same {
  color: var(--faded);
}
.differs {
  margin: 0.4rem 0;
  padding: 0.5rem 0.6rem;
  border: 1px solid var(--rule);
  border-radius: 4px;
}
.differs .out {
  text-decoration: line-through;
  color: var(--faded);
}
.choose {
  grid-column: 1 / -1;
}
</style>
