<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { newId } from '../../outbox'
import { counted } from '../../words'
import { choicesOf, type Known } from '../records/values'
import { nextLabel, typed, useWalkForm } from './useWalkForm'

/** Outlets of one room, several of the same kind at once, with consecutive labels. */
const props = defineProps<{ stop: Schemas['Stop']; code: string; known: Known }>()
const emit = defineEmits<{ done: []; leave: [] }>()
const room = props.stop.room!
const last = (props.known.outlet ?? []).filter((o) => o.room === room.id).map((o) => String(o.name)).sort().at(-1)
const first = ref(last ? nextLabel(last) : room.label.charAt(0).toUpperCase() + '1')
const many = ref(1)
const lastCable = String((props.known.outlet ?? []).at(-1)?.cable ?? '')
const cable = ref<string | undefined>(lastCable || undefined)
const tested = ref('')
const cables = choicesOf('outlet', 'cable')
const labels = computed(() => Array.from({ length: many.value }, (_, n) => nextLabel(first.value, n)))
const { busy, hand, added } = useWalkForm(props.code, room.id, () => emit('done'))
const bad = computed(() => (tested.value && typed(tested.value) === undefined ? 'Write the rate in Mb/s, such as 1000.' : undefined))

const add = () => hand(labels.value.map((name) => added('outlet', `outlet ${name} in ${room.label}`, {
  id: newId(), room: room.id, name, cable: cable.value, testedMbps: typed(tested.value), testedOn: typed(tested.value) ? new Date().toLocaleDateString('sv') : undefined })))
</script>

<template>
  <form class="stack quick" @submit.prevent="add">
    <div class="fields">
      <v-text-field v-model="first" v-first label="First label" hint="As written on it, such as A1" persistent-hint />
      <v-select v-model="many" label="How many" :items="[1, 2, 3, 4, 5, 6, 8, 10, 12]" />
      <v-select v-model="cable" label="Cable (optional)" :items="cables" clearable />
      <v-text-field v-model="tested" label="Tested at, Mb/s (optional)" inputmode="decimal" :error-messages="bad" />
    </div>
    <p class="small quiet">{{ labels.join(', ') }}</p>
    <div class="row"><v-btn type="submit" color="primary" :disabled="busy || !first || !!bad">Add {{ counted(many, 'outlet') }}</v-btn><v-btn variant="text" @click="emit('leave')">Cancel</v-btn></div>
  </form>
</template>
