<script setup lang="ts">
import type { Schemas } from '../../api/client'
import StateMark from '../../parts/StateMark.vue'
import { tintOf } from './tints'

/** One device of the drawing: what it is, how it reaches the line, what is wrong with it. */
defineProps<{ device: Schemas['DrawnDevice']; code: string; segments: Schemas['Named'][]; room?: string; tab: number }>()
defineEmits<{ at: [] }>()
</script>

<template>
  <router-link :to="`/households/${code}/records/device/${device.device.id}`" class="box" :class="{ loose: device.depth < 0 }" :aria-describedby="`says-${device.device.id}`" :tabindex="tab" @focus="$emit('at')">
    <svg class="tints" width="8" aria-hidden="true" preserveAspectRatio="none"><line v-for="(s, n) in device.segments" :key="s.id" :x1="n * 4 + 2" y1="0" :x2="n * 4 + 2" y2="100%" :stroke-width="device.segments.length > 1 ? 4 : 8" :stroke="tintOf(segments, s.id).colour" :stroke-dasharray="tintOf(segments, s.id).dash" /></svg>
    <span :id="`says-${device.device.id}`" hidden>{{ device.says }}</span>
    <strong>{{ device.device.label }}</strong>
    <span class="small quiet">{{ [room, device.roles.join(', ')].filter(Boolean).join(' · ') }}</span>
    <span v-if="device.up?.says" class="small">{{ device.up.says }}</span>
    <span v-if="device.up?.load" class="small found"><StateMark :state="device.up.load" :word="device.up.taken" /></span>
    <span v-if="device.segments.length" class="small quiet">in {{ device.segments.map((s) => s.label).join(', ') }}</span>
    <span v-for="r in device.radios" :key="r" class="small quiet">Wi-Fi {{ r }}</span>
    <span v-for="(f, n) in device.findings" :key="n" class="small found"><StateMark :state="f.severity" :word="f.code.replaceAll('-', ' ')" /></span>
  </router-link>
</template>

<style scoped>
.box { display: grid; gap: 1px; padding: 6px 10px 7px 18px; border: 1px solid rgb(var(--v-theme-line)); border-radius: 5px; background: rgb(var(--v-theme-surface)); position: relative; overflow: hidden; text-decoration: none; z-index: 2; }
a.box { color: inherit; }
.box.loose { border-style: dashed; }
.box strong { overflow-wrap: anywhere; }
.tints { position: absolute; left: 0; top: 0; height: 100%; }
.found :deep(.state) { white-space: normal; }
</style>
