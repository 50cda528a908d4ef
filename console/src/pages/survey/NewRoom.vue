<script setup lang="ts">
import { computed, ref } from 'vue'
import { newId } from '../../outbox'
import { floorName } from '../../words'
import type { Known } from '../records/values'
import { useWalkForm } from './useWalkForm'

/** The next room of the walk; it follows the last one of its floor. */
const props = defineProps<{ code: string; known: Known }>()
const open = ref(false)
const name = ref('')
const floor = ref(Number((props.known.room ?? []).at(-1)?.floor ?? 0))
const floors = Array.from({ length: 12 }, (_, n) => n - 3).map((n) => ({ title: floorName(n), value: n }))
const order = computed(() => 1 + Math.max(0, ...(props.known.room ?? []).filter((r) => (r.floor ?? 0) === floor.value).map((r) => Number(r.order ?? 0))))
const { busy, hand, added } = useWalkForm(props.code, '', () => { name.value = ''; open.value = false })
const add = () => hand([added('room', `room ${name.value}`, { id: newId(), name: name.value, floor: floor.value || undefined, order: order.value })])
</script>

<template>
  <div v-if="!open"><v-btn variant="outlined" @click="open = true">Add a room</v-btn></div>
  <form v-else class="sheet stack quick" @submit.prevent="add">
    <div class="fields"><v-text-field v-model="name" v-first label="Name of the room" /><v-select v-model="floor" label="Floor" :items="floors" /></div>
    <div class="row"><v-btn type="submit" color="primary" :disabled="busy || !name">Add the room</v-btn><v-btn variant="text" @click="open = false">Cancel</v-btn></div>
  </form>
</template>
