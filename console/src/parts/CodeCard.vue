<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { when } from '../words'

/** A code to be photographed: drawn dark on light in either scheme, since cameras expect that. */
const props = defineProps<{ code: Schemas['Code']; how: string }>()
const path = computed(() => props.code.qr.map((row, y) => [...row].map((c, x) => (c === '1' ? `M${x} ${y}h1v1h-1z` : '')).join('')).join(''))
</script>

<template>
  <figure class="card stack-s">
    <svg :viewBox="`0 0 ${code.qr.length} ${code.qr.length}`" role="img" :aria-label="`QR code of ${code.address}`" shape-rendering="crispEdges"><rect width="100%" height="100%" fill="#fff" /><path :d="path" fill="#000" /></svg>
    <figcaption class="stack-s"><span>{{ how }}</span><a :href="code.address" class="mono address">{{ code.address }}</a><span class="small quiet">Expires at {{ when(code.ends) }}.</span></figcaption>
  </figure>
</template>

<style scoped>
.card { display: flex; flex-wrap: wrap; gap: 16px; align-items: center; }
.card svg { width: 220px; height: 220px; flex: none; border-radius: 4px; }
.address { overflow-wrap: anywhere; }
</style>
