<script setup lang="ts">
import type { Schemas } from '../api/client'

/** Changes that are not finished, each with what has to be done or looked at. */
defineProps<{ unfinished: Schemas['Unfinished'][]; code: string }>()
</script>

<template>
  <ul class="plain ruled">
    <li v-for="o in unfinished" :key="o.change.id" class="stack-s">
      <div><router-link :to="`/households/${code}/records/change/${o.change.id}`">{{ o.change.label }}</router-link>, {{ o.device.label }}</div>
      <ul class="items"><li v-for="i in o.items" :key="i">{{ i }}</li></ul>
    </li>
  </ul>
</template>

<style scoped>
.items { margin: 0; padding-left: 22px; }
</style>
