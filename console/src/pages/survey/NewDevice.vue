<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import ReadLabel from '../../parts/ReadLabel.vue'
import { newId } from '../../outbox'
import { choicesOf, type Known } from '../records/values'
import { useWalkForm } from './useWalkForm'

/** A device in the room and how it is connected; the details can follow. */
const props = defineProps<{ stop: Schemas['Stop']; code: string; known: Known }>()
const emit = defineEmits<{ done: []; leave: [] }>()
const room = props.stop.room!
const name = ref('')
const roles = ref<string[]>([])
const make = ref('')
const model = ref('')
const serial = ref('')
const medium = ref<string>()
const hardware = ref('')
const seen = (member: string) => [...new Set((props.known.device ?? []).map((d) => String(d[member] ?? '')).filter(Boolean))].sort()
const makes = computed(() => seen('make'))
const models = computed(() => [...new Set((props.known.device ?? []).filter((d) => !make.value || d.make === make.value).map((d) => String(d.model ?? '')).filter(Boolean))])
const { busy, hand, added } = useWalkForm(props.code, room.id, () => emit('done'))

/** What the last device of that model was: the next one is usually the same. */
function likeTheLast() {
  const like = (props.known.device ?? []).filter((d) => d.model === model.value).at(-1)
  if (!like) return
  if (!roles.value.length) roles.value = [...((like.roles as string[] | undefined) ?? [])]
  if (!make.value) make.value = String(like.make ?? '')
  medium.value ??= (props.known.interface ?? []).filter((i) => i.device === like.id).map((i) => i.medium as string | undefined).find(Boolean)
}

function take(label: Schemas['Label']) {
  serial.value = label.serial ?? serial.value
  hardware.value = label.hardwareAddress ?? hardware.value
}

function add() {
  const id = newId()
  const parcels = [added('device', `device ${name.value}`, { id, name: name.value, room: room.id, roles: roles.value, make: make.value, model: model.value, serial: serial.value })]
  if (medium.value || hardware.value) parcels.push(added('interface', `adapter of ${name.value}`, { id: newId(), device: id, name: medium.value ?? 'adapter', medium: medium.value, hardwareAddress: hardware.value }))
  void hand(parcels)
}
</script>

<template>
  <form class="stack quick" @submit.prevent="add">
    <ReadLabel @read="take" />
    <div class="fields">
      <v-text-field v-model="name" v-first label="Name" hint="What the household calls it" persistent-hint />
      <v-select v-model="roles" label="Roles" :items="choicesOf('device', 'roles')" multiple />
      <v-combobox v-model="make" label="Make (optional)" :items="makes" />
      <v-combobox v-model="model" label="Model (optional)" :items="models" @update:model-value="likeTheLast" />
      <v-text-field v-model="serial" label="Serial number (optional)" autocapitalize="characters" />
      <v-select v-model="medium" label="Connected by (optional)" :items="choicesOf('interface', 'medium')" clearable />
      <v-text-field v-model="hardware" label="MAC address (optional)" hint="Any common spelling" persistent-hint />
    </div>
    <div class="row"><v-btn type="submit" color="primary" :disabled="busy || !name || !roles.length">Add the device</v-btn><v-btn variant="text" @click="emit('leave')">Cancel</v-btn></div>
  </form>
</template>
