<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { useRoute } from 'vue-router'
import Masthead from './shared/Masthead.vue'
import { viewKey } from './routes'
import { who } from './session'
import { theme } from './theme'

const route = useRoute()
</script>

<template>
  <ConfigProvider :theme="theme">
    <a class="skip" href="#main">Skip to the content</a>
    <Masthead v-if="who && !route.meta.open" />
    <RouterView v-slot="{ Component, route: shown }">
      <component :is="Component" :key="viewKey(shown)" />
    </RouterView>
    <section id="messages" aria-label="Messages" />
  </ConfigProvider>
</template>
