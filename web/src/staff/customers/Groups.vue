<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { ref } from 'vue'
import { api, call, type Schemas } from '../../shared/api/client'
import { counted } from '../../shared/format'
import Failed from '../shared/Failed.vue'
import Frame from '../shared/Frame.vue'
import GroupMembers from './GroupMembers.vue'
import { may } from '../session'
import { useAct } from '../shared/act'
import { loadAudiences } from './audiences'
import { useLoad } from '../shared/load'

/** Named groups of customers, that articles, categories and notices can be for. */
const groups = useLoad(
  () => 0,
  () => call(api.GET('/api/staff/groups')),
)
const { act, busy, refused } = useAct()
const name = ref('')
const open = ref('')
const renaming = ref<Schemas['Group']>()
const mayChange = may('administer')

async function changed() {
  await Promise.all([groups.reload(), loadAudiences()])
}
async function add() {
  if (!(await act(() => call(api.POST('/api/staff/groups', { body: { name: name.value } })), 'Added'))) return
  name.value = ''
  await changed()
}
async function rename() {
  const g = renaming.value
  if (!g) return
  const at = { params: { path: { key: g.key } }, body: { name: g.name } }
  if (await act(() => call(api.PUT('/api/staff/groups/{key}', at)), 'Renamed')) {
    renaming.value = undefined
    await changed()
  }
}
async function drop(g: Schemas['Group']) {
  const at = { params: { path: { key: g.key } } }
  if (await act(() => call(api.DELETE('/api/staff/groups/{key}', at)), `${g.name} is no more`))
    await changed()
}
const fault = (field: string) => refused.value?.field(field)
</script>

<template>
  <Frame>
    <p class="small"><RouterLink to="/settings">Settings</RouterLink> › Groups of customers</p>
    <h1>Groups of customers</h1>
    <p class="faded">
      An article, a category or a notice can be for one group: then only its members meet it, once they have
      signed in. Staff see it in their preview.
    </p>
    <Failed v-if="groups.error.value" :error="groups.error.value" @retry="groups.reload" />
    <ul class="plainlist panel list">
      <li v-for="g in groups.value.value ?? []" :key="g.key">
        <form v-if="renaming?.key === g.key" class="row" @submit.prevent="rename">
          <label class="hidden" :for="`name-${g.key}`">Name of the group</label>
          <Input :id="`name-${g.key}`" v-model:value="renaming.name" class="name" :maxlength="60" />
          <Button type="primary" html-type="submit" :loading="busy">Keep the name</Button>
          <Button @click="renaming = undefined">Cancel</Button>
        </form>
        <div v-else class="row spread">
          <span>
            <strong>{{ g.name }}</strong>
            <span class="faded small more">
              {{ counted(g.members, 'customer') }};
              <RouterLink v-if="g.uses" :to="{ path: '/library', query: { audience: g.audience } }"
                >{{ counted(g.uses, 'thing') }} for it</RouterLink
              >
              <template v-else>nothing is for it</template>
            </span>
          </span>
          <span v-if="mayChange" class="row">
            <button
              type="button"
              class="quiet"
              :aria-expanded="open === g.key"
              :aria-label="`Customers in ${g.name}`"
              @click="open = open === g.key ? '' : g.key"
            >
              Customers
            </button>
            <button type="button" class="quiet" :aria-label="`Rename ${g.name}`" @click="renaming = { ...g }">
              Rename
            </button>
            <button type="button" class="quiet" :aria-label="`Take ${g.name} away`" @click="drop(g)">
              Take away
            </button>
          </span>
        </div>
        <GroupMembers v-if="open === g.key" :group="g" @changed="groups.reload" />
      </li>
      <li v-if="groups.value.value && !groups.value.value.length" class="faded">
        There are none. What is not for everyone is for all signed-in customers, or for staff.
      </li>
    </ul>
    <form v-if="mayChange" class="row" @submit.prevent="add">
      <label class="hidden" for="group-name">A new group</label>
      <Input id="group-name" v-model:value="name" class="name" :maxlength="60" placeholder="Solar owners" />
      <Button html-type="submit" :loading="busy" :disabled="!name.trim()">Add a group</Button>
      <span v-if="fault('name')" class="fault">{{ fault('name') }}</span>
    </form>
    <p v-else class="small faded">Administrators make groups and say who is in them.</p>
  </Frame>
</template>

<style scoped>
.list {
  margin-bottom: 1rem;
}
.list li {
  padding: 0.6rem 0.9rem;
  border-bottom: 1px solid var(--rule);
}
.more {
  margin-left: 0.6rem;
}
.name {
  width: 22rem;
}
</style>
