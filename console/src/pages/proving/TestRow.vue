<script setup lang="ts">
import type { Test } from '../../api/client'
import StateMark from '../../parts/StateMark.vue'
import { when } from '../../words'

defineProps<{ test: Test; code: string; recordable?: boolean; again?: boolean }>()
defineEmits<{ record: [] }>()
</script>

<template>
  <div class="test">
    <span class="mark"><StateMark :state="test.status" /></span>
    <div class="grow">
      <router-link :to="`/households/${code}/proving/${test.id}`" class="row-link"><strong>{{ test.title }}</strong>, {{ test.about.label }}</router-link><span v-if="!test.required" class="small quiet"> advised</span>
      <div v-if="test.changes?.length" class="small">{{ test.changes[0]?.sentence }}<template v-if="test.changes.length > 1">, and {{ test.changes.length - 1 }} more</template></div>
      <div v-else-if="test.doubts?.length" class="small">{{ test.doubts[0]?.sentence }}<template v-if="test.doubts.length > 1"> And {{ test.doubts.length - 1 }} more.</template></div>
      <div v-else-if="test.at && when(test.at)" class="small quiet">{{ when(test.at) }}, {{ test.byPerson }}<template v-if="test.observed">: {{ test.observed }}</template></div>
      <div v-else class="small quiet">{{ test.expected }}</div>
      <div v-if="test.look" class="small">{{ test.look }}</div>
    </div>
    <v-btn v-if="recordable" variant="outlined" @click="$emit('record')">Record</v-btn>
  </div>
</template>

<style scoped>
.test { display: flex; gap: 12px; align-items: center; }
.mark { width: 92px; flex: none; align-self: flex-start; padding-top: 1px; }
@media (max-width: 899px) { .test { flex-wrap: wrap; row-gap: 0; } .mark { width: 100%; padding: 0; } .grow { flex: 1 0 60%; max-width: 100%; } }
</style>
