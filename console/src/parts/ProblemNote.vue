<script setup lang="ts">
import type { Failure } from '../api/client'

/** What went wrong and what to do next. */
defineProps<{ failure: Failure }>()
</script>

<template>
  <div class="problem" role="alert">
    <strong>{{ failure.problem.detail }}</strong>
    <ul v-if="failure.problem.faults?.length" class="plain small"><li v-for="f in failure.problem.faults" :key="f.pointer + f.detail">{{ f.pointer.slice(1) }}: {{ f.detail }}</li></ul>
    <p>{{ failure.problem.remedy }} <a v-if="failure.problem.code === 'not-logged-in'" href="/login" target="_blank" rel="noopener">Open the log-in page in another tab</a></p>
    <slot />
  </div>
</template>

<style scoped>
.problem { border-left: 4px solid rgb(var(--v-theme-error)); background: rgb(var(--v-theme-surface)); padding: 10px 14px; display: grid; gap: 4px; }
</style>
