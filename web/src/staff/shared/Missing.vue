<script setup lang="ts">
import Frame from './Frame.vue'
</script>

<template>
  <Frame>
    <h1>There is no page at this address</h1>
    <p>
      It may have been moved. <RouterLink to="/today">Go to Today</RouterLink>, or press <kbd>/</kbd> to find
      an article.
    </p>
  </Frame>
</template>
