<script setup lang="ts">
import { ref } from 'vue'
import { api, must } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'

/** Looking at a secret, for a reason, and putting another in its place. */
const props = defineProps<{ code: string; id: string }>()
const why = ref('')
const shown = ref('')
const next = ref('')
const step = ref<'' | 'look' | 'change'>('')
const { failure, busy, act } = useAction()
const path = { code: props.code, id: props.id }

const look = () => act(async () => {
  shown.value = (await must(api.POST('/api/v1/households/{code}/secrets/{id}/reveal', { params: { path }, body: { why: why.value } }))).body
  step.value = ''
  why.value = ''
  setTimeout(() => { shown.value = '' }, 60_000)
})
const change = () => act(async () => {
  await must(api.POST('/api/v1/households/{code}/secrets/{id}/rotate', { params: { path }, body: { body: next.value } }))
  step.value = ''
  next.value = ''
  shown.value = ''
})
</script>

<template>
  <section class="sheet stack" aria-labelledby="sealed">
    <h2 id="sealed">The secret itself</h2>
    <p v-if="shown" class="shown"><span class="mono">{{ shown }}</span> <v-btn variant="outlined" size="small" @click="shown = ''">Hide</v-btn></p>
    <p v-else class="quiet">Hidden. Each time it is shown, the journal notes who and why.</p>
    <div v-if="!step" class="row"><v-btn variant="outlined" @click="step = 'look'">Show</v-btn><v-btn variant="outlined" @click="step = 'change'">Change</v-btn></div>
    <form v-if="step === 'look'" class="stack" @submit.prevent="look">
      <v-text-field v-model="why" v-first label="Why you need it" hint="It stays in the journal." persistent-hint />
      <div class="row"><v-btn type="submit" color="primary" :disabled="why.length < 3 || busy">Show it for a minute</v-btn><v-btn variant="text" @click="step = ''">Cancel</v-btn></div>
    </form>
    <form v-if="step === 'change'" class="stack" autocomplete="off" @submit.prevent="change">
      <v-text-field v-model="next" v-first label="The new secret" type="password" autocomplete="new-password" />
      <div class="row"><v-btn type="submit" color="primary" :disabled="!next || busy">Save</v-btn><v-btn variant="text" @click="step = ''">Cancel</v-btn></div>
    </form>
    <ProblemNote v-if="failure" :failure="failure" />
  </section>
</template>

<style scoped>
.shown { display: flex; gap: 14px; align-items: center; flex-wrap: wrap; overflow-wrap: anywhere; }
</style>
