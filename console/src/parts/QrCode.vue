<script setup lang="ts">
import { computed } from 'vue'

/** A QR code, drawn dark on light in either scheme, since cameras expect that. */
const props = defineProps<{ rows: string[]; of: string }>()
const path = computed(() => props.rows.map((row, y) => [...row].map((c, x) => (c === '1' ? `M${x} ${y}h1v1h-1z` : '')).join('')).join(''))
</script>

<template>
  <svg class="qr" :viewBox="`0 0 ${rows.length} ${rows.length}`" role="img" :aria-label="`QR code of ${of}`" shape-rendering="crispEdges"><rect width="100%" height="100%" fill="#fff" /><path :d="path" fill="#000" /></svg>
</template>

<style scoped>
.qr { width: 220px; height: 220px; flex: none; border-radius: 4px; }
</style>
