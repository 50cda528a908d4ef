<script setup lang="ts">
import type { Schemas } from '../../api/client'

/** Things that wait, each a way to where they are dealt with. */
defineProps<{ todos: Schemas['Todo'][]; withHome?: boolean }>()

function place(t: Schemas['Todo']): string {
  return `/households/${t.household}` + (t.place === 'overview' ? '#findings' : `/${t.place}`)
}
</script>

<template>
  <ol class="plain ruled">
    <li v-for="(t, n) in todos" :key="n">
      <router-link :to="place(t)" class="row-link todo">
        <span class="grow">{{ t.sentence }}</span>
        <span v-if="withHome" class="small quiet home">{{ t.name }} <span class="mono">{{ t.household }}</span></span>
        <span aria-hidden="true" class="arrow">→</span>
      </router-link>
    </li>
  </ol>
</template>

<style scoped>
.todo { display: flex; align-items: center; gap: 10px; min-height: 32px; }
.todo:hover .grow { text-decoration: underline; text-underline-offset: 2px; }
.home { text-align: right; }
.arrow { color: rgb(var(--v-theme-primary)); }
</style>
