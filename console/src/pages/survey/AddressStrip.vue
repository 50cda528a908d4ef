<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'

/** A segment's addresses from its first to its last: the pool as a band, each address as a mark by what it is there for. */
const props = defineProps<{ strip: Schemas['AddressStrip'] }>()
const x = (share: number) => 8 + share * 984
const marks = computed(() => props.strip.spots.filter((s) => !s.outside).map((s) => ({ ...s, x: x(s.share), shape: s.clash ? 'clash' : s.uses.includes('gateway') ? 'gateway' : s.uses.includes('reserved') ? 'reserved' : s.uses.includes('set-on-device') ? 'fixed' : 'leased' })))
const says = computed(() => `${props.strip.prefix}: ${props.strip.pool ? `DHCP pool ${props.strip.pool}; ` : ''}${props.strip.spots.map((s) => `${s.address} ${s.says}`).join('; ')}`)
const keys = [['gateway', 'gateway'], ['reserved', 'reserved'], ['fixed', 'set on the device'], ['leased', 'leased'], ['clash', 'clash']] as const
const used = computed(() => keys.filter(([shape]) => marks.value.some((m) => m.shape === shape)))
</script>

<template>
  <div class="stack-s">
    <svg class="strip" viewBox="0 0 1000 44" preserveAspectRatio="none" role="img" :aria-label="says">
      <rect x="8" y="14" width="984" height="16" class="range" />
      <rect v-if="strip.pool" :x="x(strip.poolFrom ?? 0)" y="14" :width="Math.max(3, x(strip.poolTill ?? 0) - x(strip.poolFrom ?? 0))" height="16" class="pool" />
      <line v-for="m in marks" :key="m.address" :x1="m.x" :x2="m.x" :y1="m.shape === 'leased' ? 14 : 4" :y2="m.shape === 'reserved' || m.shape === 'clash' ? 40 : 30" :class="m.shape" vector-effect="non-scaling-stroke" />
    </svg>
    <ul class="plain row small quiet" aria-hidden="true">
      <li v-if="strip.pool" class="row"><svg width="22" height="14"><rect width="22" height="14" class="pool" /></svg>DHCP pool</li>
      <li v-for="[shape, word] in used" :key="shape" class="row"><svg width="10" height="20"><line x1="5" x2="5" :y1="shape === 'leased' ? 7 : 0" :y2="shape === 'reserved' || shape === 'clash' ? 20 : 14" :class="shape" /></svg>{{ word }}</li>
    </ul>
  </div>
</template>

<style scoped>
.strip { width: 100%; height: 44px; display: block; }
.range { fill: rgb(var(--v-theme-background)); stroke: rgb(var(--v-theme-line)); }
.pool { fill: rgba(var(--v-theme-primary), .26); }
line { stroke: rgb(var(--v-theme-on-surface)); stroke-width: 2; }
.gateway { stroke: rgb(var(--v-theme-primary)); stroke-width: 5; }
.fixed { stroke-width: 3; }
.reserved { stroke: rgb(var(--v-theme-secondary)); stroke-width: 3; }
.clash { stroke: rgb(var(--v-theme-failed)); stroke-width: 5; stroke-dasharray: 4 2; }
</style>
