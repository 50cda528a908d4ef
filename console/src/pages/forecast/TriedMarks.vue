<script setup lang="ts">
import type { Schemas } from '../../api/client'
import StateMark from '../../parts/StateMark.vue'
import { plain } from '../../words'

/** How the tests of a cell's path stand, and whether one speaks against the forecast. */
defineProps<{ cell: Schemas['ForecastCell'] }>()
</script>

<template>
  <span v-if="cell.tried?.length" class="small tried"><StateMark v-for="t in cell.tried" :key="t.test" :state="t.status" :word="`path ${t.title.toLowerCase()}: ${plain(t.status)}`" /></span>
  <span v-if="cell.against?.length" class="small"><StateMark state="warning" word="a result speaks against this" /></span>
</template>

<style scoped>
.tried { display: flex; gap: 2px 12px; flex-wrap: wrap; }
</style>
