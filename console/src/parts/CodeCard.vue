<script setup lang="ts">
import type { Schemas } from '../api/client'
import { when } from '../words'
import QrCode from './QrCode.vue'

/** A code to be photographed, with the address that it holds. */
defineProps<{ code: Schemas['Code']; how: string }>()
</script>

<template>
  <figure class="card stack-s">
    <QrCode :rows="code.qr" :of="code.address" />
    <figcaption class="stack-s"><span>{{ how }}</span><a :href="code.address" class="mono address">{{ code.address }}</a><span class="small quiet">Expires at {{ when(code.ends) }}.</span></figcaption>
  </figure>
</template>

<style scoped>
.card { display: flex; flex-wrap: wrap; gap: 16px; align-items: center; }
.address { overflow-wrap: anywhere; }
</style>
