<script setup lang="ts">
import { mdiCameraOutline } from '@mdi/js'
import { ref } from 'vue'
import type { Schemas } from '../../api/client'
import { newId } from '../../outbox'
import { scaled } from '../records/pictures'
import { useWalkForm } from './useWalkForm'

/** A photograph of the room or of something in it, with what is to be seen. */
const props = defineProps<{ stop: Schemas['Stop']; code: string }>()
const emit = defineEmits<{ done: []; leave: [] }>()
const room = props.stop.room!
const of = [room, ...props.stop.devices, ...props.stop.outlets].map((r) => ({ title: r.kind === 'outlet' ? `outlet ${r.label}` : r.label, value: `${r.kind}/${r.id}` }))
const subject = ref(of[0]!.value)
const caption = ref('')
const chosen = ref<File>()
const { busy, hand } = useWalkForm(props.code, room.id, () => emit('done'))
const choose = (e: Event) => { chosen.value = (e.target as HTMLInputElement).files?.[0] }

async function add() {
  const body = await scaled(chosen.value!)
  const [kind, record] = subject.value.split('/') as [string, string]
  const words = caption.value || (of.find((o) => o.value === subject.value)?.title ?? room.label)
  const query = new URLSearchParams({ id: newId(), kind, record, caption: words, fileName: chosen.value!.name.slice(0, 200) })
  await hand([{ title: `photograph of ${words}`, method: 'POST', path: `/households/${props.code}/attachments?${query}`, body }])
}
</script>

<template>
  <form class="stack quick" @submit.prevent="add">
    <label class="pick"><v-icon :icon="mdiCameraOutline" size="20" /> {{ chosen ? chosen.name : 'Take or choose a photograph' }}<input type="file" accept="image/*" capture="environment" @change="choose" /></label>
    <template v-if="chosen">
      <v-select v-model="subject" label="Subject" :items="of" />
      <v-text-field v-model="caption" label="What it shows (optional)" />
    </template>
    <div class="row"><v-btn v-if="chosen" type="submit" color="primary" :disabled="busy">Attach</v-btn><v-btn variant="text" @click="emit('leave')">Cancel</v-btn></div>
  </form>
</template>
