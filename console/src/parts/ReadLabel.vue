<script setup lang="ts">
import { mdiBarcodeScan } from '@mdi/js'
import { ref } from 'vue'
import { failureOf, type Schemas } from '../api/client'
import { useAction } from '../useAction'
import { scaled } from '../pages/records/pictures'
import ProblemNote from './ProblemNote.vue'

/** A photograph of a label, read by Kaiku: what looks like serial number and hardware address. */
const emit = defineEmits<{ read: [label: Schemas['Label']] }>()
const { failure, busy, act } = useAction()
const said = ref('')

const read = (e: Event) => act(async () => {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  said.value = ''
  const response = await fetch('/api/v1/labels', { method: 'POST', headers: { 'Content-Type': 'application/octet-stream' }, body: await scaled(file) })
  const text = await response.text()
  input.value = ''
  if (!response.ok) throw failureOf(text)
  const label = JSON.parse(text) as Schemas['Label']
  const meant = [label.serial && `serial number ${label.serial}`, label.hardwareAddress && `hardware address ${label.hardwareAddress}`].filter(Boolean).join(', ')
  said.value = meant ? `Read: ${meant}. Compare it with the label.` : `Read, but neither number nor address: ${label.codes.map((c) => c.text).join(', ')}`
  emit('read', label)
})
</script>

<template>
  <div class="stack-s">
    <label class="pick"><v-icon :icon="mdiBarcodeScan" size="20" /> {{ busy ? 'Reading …' : 'Read from a photograph of the label' }}<input type="file" accept="image/*" capture="environment" class="label-photo" :disabled="busy" @change="read" /></label>
    <p v-if="said" class="small" role="status">{{ said }}</p>
    <ProblemNote v-if="failure" :failure="failure" />
  </div>
</template>

<style scoped>
.pick { display: flex; gap: 8px; align-items: center; min-height: 48px; padding: 0 14px; border: 1px dashed rgb(var(--v-theme-line)); border-radius: 6px; cursor: pointer; position: relative; }
.pick input { position: absolute; inset: 0; opacity: 0; cursor: pointer; }
.pick:focus-within { outline: 2px solid rgb(var(--v-theme-secondary)); outline-offset: 2px; }
</style>
