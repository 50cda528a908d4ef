<script setup lang="ts">
import type { Failure } from '../api/client'
import ProblemNote from './ProblemNote.vue'

/** Loading, or why it failed with a way to try again. */
defineProps<{ failure?: Failure }>()
defineEmits<{ again: [] }>()
</script>

<template>
  <ProblemNote v-if="failure" :failure="failure"><div><v-btn variant="outlined" @click="$emit('again')">Try again</v-btn></div></ProblemNote>
  <p v-else class="quiet" role="status">Loading …</p>
</template>
