<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import StateMark from './StateMark.vue'

/** Required tests by where they stand, as a bar and in words. */
const props = defineProps<{ coverage: Schemas['Coverage']; brief?: boolean }>()
const order = [
  { key: 'proven' }, { key: 'marginal' }, { key: 'failed' }, { key: 'inDoubt', state: 'in-doubt', colour: 'doubt', word: 'in doubt' }, { key: 'stale' }, { key: 'untried' },
  { key: 'notServed', state: 'not-served', colour: 'failed', word: 'for wishes without a path' }, { key: 'waived' },
] as const
const parts = computed(() => order.map((o) => ({ state: o.key as string, colour: o.key as string, word: o.key as string, ...o, n: props.coverage[o.key] })).filter((p) => p.n > 0))
const sentence = computed(() => `${props.coverage.proven} of ${props.coverage.required} required tests proven`)
</script>

<template>
  <div class="stack-s">
    <div v-if="coverage.required" class="track" role="img" :aria-label="sentence">
      <span v-for="p in parts" :key="p.state" :class="p.state" :style="{ flexGrow: p.n, backgroundColor: p.state === 'untried' ? 'transparent' : `rgb(var(--v-theme-${p.colour}))` }" />
    </div>
    <p v-if="!coverage.required" class="quiet">No tests are planned yet: they follow from the paths.</p>
    <div v-else-if="brief" class="small quiet">{{ coverage.proven }} of {{ coverage.required }} proven</div>
    <ul v-else class="plain row small"><li v-for="p in parts" :key="p.state"><StateMark :state="p.state" :word="`${p.n} ${p.word}`" /></li></ul>
  </div>
</template>

<style scoped>
.track { display: flex; gap: 2px; height: 10px; }
.track span { min-width: 6px; border-radius: 2px; }
.track .untried { border: 1.5px solid rgb(var(--v-theme-untried)); }
</style>
