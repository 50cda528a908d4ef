<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import { asks, nothingTyped, readingOf, type ClipReading, type Reading } from './reading'

/** What was read off a sample clip while it played; the result is computed from it. */
const props = defineProps<{ reads: Reading }>()
const emit = defineEmits<{ read: [reading: ClipReading | undefined] }>()
const typed = reactive(nothingTyped())
const words = computed(() => (props.reads === 'lips' ? undefined : asks[props.reads]))
watch(typed, () => emit('read', readingOf(props.reads, typed)))
</script>

<template>
  <div class="fields">
    <template v-if="words">
      <v-text-field v-model="typed.asked" :label="words.asked" placeholder="00:00:30:00" hide-details />
      <v-text-field v-model="typed.seen" :label="words.seen" placeholder="00:00:33:05" hide-details />
      <v-text-field v-model="typed.after" :label="words.after" inputmode="decimal" hide-details />
    </template>
    <template v-else>
      <v-text-field v-model="typed.frames" label="Frames from flash to beep" hint="In a film that your phone took of the sample clip; below zero if the beep comes first." persistent-hint inputmode="text" />
      <v-text-field v-model="typed.rate" label="Frames in a second of that film" placeholder="240" inputmode="decimal" hide-details />
    </template>
  </div>
</template>

<style scoped>
.fields { display: grid; gap: 10px; grid-template-columns: repeat(auto-fit, minmax(200px, 1fr)); }
</style>
