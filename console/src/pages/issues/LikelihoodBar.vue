<script setup lang="ts">
import { plain } from '../../words'

/** A probability as a bar and a word: the bar alone is not read by everyone. */
defineProps<{ probability: number; word: string }>()
</script>

<template>
  <div class="likely">
    <svg viewBox="0 0 100 8" preserveAspectRatio="none" aria-hidden="true"><rect width="100" height="8" class="all" /><rect :width="Math.max(1, 100 * probability)" height="8" class="so" /></svg>
    <span class="small">{{ plain(word) }}, about {{ Math.round(100 * probability) }} %</span>
  </div>
</template>

<style scoped>
.likely { display: grid; grid-template-columns: minmax(80px, 200px) auto; gap: 12px; align-items: center; justify-content: start; }
svg { width: 100%; height: 8px; }
.all { fill: rgba(var(--v-theme-on-surface), .12); }
.so { fill: rgb(var(--v-theme-primary)); }
</style>
