<script setup lang="ts">
import { mdiBarcodeScan } from '@mdi/js'
import { ref } from 'vue'
import { sendBytes, type Schemas } from '../api/client'
import { useAction } from '../useAction'
import { scaled } from '../pages/records/pictures'
import ProblemNote from './ProblemNote.vue'

/** A photograph of a label, read by Kaiku: what looks like serial number and MAC address. */
const emit = defineEmits<{ read: [label: Schemas['Label']] }>()
const { failure, busy, act } = useAction()
const said = ref('')

const read = (e: Event) => act(async () => {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  said.value = ''
  const photo = await scaled(file)
  input.value = ''
  const label = await sendBytes<Schemas['Label']>('/labels', photo)
  const meant = [label.serial && `serial number ${label.serial}`, label.hardwareAddress && `MAC address ${label.hardwareAddress}`].filter(Boolean).join(', ')
  said.value = meant ? `Read: ${meant}. Check it against the label.` : `No serial number or MAC address found, only: ${label.codes.map((c) => c.text).join(', ')}`
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
