<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <h1>There is nothing at this address</h1>
  <p class="quiet">It may be mistyped, or the page may have moved. <RouterLink to="/">Back to the round</RouterLink></p>
</template>
