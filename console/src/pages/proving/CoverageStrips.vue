<script setup lang="ts">
import { computed } from 'vue'
import { api, must } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import StateMark from '../../parts/StateMark.vue'
import { capital, when } from '../../words'
import { useResource } from '../../useResource'
import { blocksOf, colourOf, layers } from './strips'

/** How the proof came about, a strip for each room: what was proven, and what no longer is. */
const props = defineProps<{ code: string }>()
const { data, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/tests/coverage', { params: { path: { code: props.code } } })), { household: props.code })
const now = Date.now()
const rooms = computed(() => data.value?.rooms.map((r, n) => {
  const last = data.value!.days.at(-1)?.rooms.find((one) => one.room === n)?.coverage
  return { name: capital(r.label), last, blocks: blocksOf(data.value!, n, now) }
}) ?? [])
const used = computed(() => layers.filter((l) => rooms.value.some((r) => r.blocks.some((b) => b.layer === l))))
const state = (l: (typeof layers)[number]) => (l === 'inDoubt' ? 'in-doubt' : l)
</script>

<template>
  <div class="stack-s">
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <p v-else-if="!rooms.length" class="quiet">No test was required yet.</p>
    <template v-else>
      <div v-for="r in rooms" :key="r.name" class="room">
        <span>{{ r.name }}</span><span class="small quiet num">{{ r.last ? `${r.last.proven} of ${r.last.required}` : 'nothing required now' }}</span>
        <svg viewBox="0 0 1000 40" preserveAspectRatio="none" role="img" :aria-label="`${r.name}: ${r.last ? `${r.last.proven} of ${r.last.required} required tests proven now` : 'nothing required now'}`">
          <rect v-for="(b, n) in r.blocks" :key="n" :x="1000 * b.x" :y="40 * b.y" :width="Math.max(1000 * b.width - 0.6, 0.8)" :height="40 * b.height" :fill="b.layer === 'untried' ? 'none' : `rgb(var(--v-theme-${colourOf(b.layer)}))`" :stroke="b.layer === 'untried' ? 'rgb(var(--v-theme-line))' : 'none'" vector-effect="non-scaling-stroke" />
        </svg>
      </div>
      <p class="row between small quiet"><span>{{ when(data.days[0]!.at, false) }}</span><span>now</span></p>
      <ul class="plain row small" aria-label="Colours"><li v-for="l in used" :key="l"><StateMark :state="state(l)" /></li></ul>
    </template>
  </div>
</template>

<style scoped>
.room { display: grid; grid-template-columns: 1fr auto; gap: 2px 12px; }
.room svg { grid-column: 1 / -1; width: 100%; height: 40px; border-bottom: 1.5px solid rgb(var(--v-theme-line)); }
</style>
