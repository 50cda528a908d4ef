<script setup lang="ts">
import { reactive, ref } from 'vue'
import { api, must, type Schemas } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'
import { plain } from '../../words'
import type { Known } from './values'

/** Sealing a new secret: it leaves the form once, and is never shown in a list. */
const props = defineProps<{ code: string; known: Known }>()
const emit = defineEmits<{ kept: [] }>()
const open = ref(false)
const kinds = (['password', 'door-code', 'pairing-code', 'key', 'licence-key'] as const).map((value) => ({ value, title: plain(value) }))
const blank: Schemas['NewSecret'] = { name: '', kind: 'password', body: '', note: '' }
const draft = reactive({ ...blank })
const { failure, busy, act } = useAction()
const keep = () => act(async () => {
  const body = { ...draft, ...(draft.device ? {} : { device: undefined }) }
  await must(api.POST('/api/v1/households/{code}/secrets', { params: { path: { code: props.code } }, body }))
  Object.assign(draft, blank, { device: undefined })
  open.value = false
  emit('kept')
})
</script>

<template>
  <v-btn v-if="!open" variant="outlined" size="small" @click="open = true">Add a secret</v-btn>
  <form v-else class="stack wide" autocomplete="off" @submit.prevent="keep">
    <div class="fields">
      <v-text-field v-model="draft.name" v-first label="What it is for" :error-messages="failure?.faultAt('/name')" />
      <v-select v-model="draft.kind" :items="kinds" label="Kind" />
      <v-select v-model="draft.device" :items="(known.device ?? []).map((d) => ({ title: String(d.name), value: d.id }))" label="Device (optional)" clearable />
      <v-text-field v-model="draft.note" label="Where it is used (optional)" />
      <v-text-field v-model="draft.body" label="The secret itself" type="password" autocomplete="new-password" />
    </div>
    <ProblemNote v-if="failure" :failure="failure" />
    <div class="row"><v-btn type="submit" color="primary" :disabled="!draft.name || !draft.body || busy">Save</v-btn><v-btn variant="text" @click="open = false">Cancel</v-btn></div>
  </form>
</template>

<style scoped>
.wide { flex: 1 1 100%; }
.fields { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(260px, 100%), 1fr)); gap: 14px; }
</style>
