<script setup lang="ts">
import { mdiCameraOutline } from '@mdi/js'
import { ref, shallowRef } from 'vue'
import { api, must, type Schemas, type Test } from '../../api/client'
import { newId, post, sendOrKeep } from '../../outbox'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'
import { outcomes, type Outcome } from './outcomes'
import { photographOf } from './photographs'
import type { ClipReading } from './reading'
import ReadingFields from './ReadingFields.vue'
import SampleChoice from './SampleChoice.vue'

/** How a test went on the screen: the second tap records it. */
const props = defineProps<{ test: Test; code: string; asOf: number }>()
const emit = defineEmits<{ done: [made: Schemas['AttemptMade']]; kept: [said: string]; leave: [] }>()
const note = ref('')
const conditions = ref('')
const sample = ref('')
const reading = shallowRef<ClipReading>()
const photograph = shallowRef<File>()
const choose = (e: Event) => { photograph.value = (e.target as HTMLInputElement).files?.[0] }
const { failure, busy, act } = useAction()
const id = newId()
const key = newId()

const record = (result: { outcome: Outcome } | { reading: ClipReading }) => act(async () => {
  const body = { id, test: props.test.id, ...result, asOf: props.asOf, ...(note.value && { note: note.value }), ...(conditions.value && { conditions: conditions.value }), ...(sample.value && { sample: sample.value }) }
  const what = `${props.test.title}, ${props.test.about.label}`
  const room = props.test.room?.id ?? ''
  const picture = photograph.value && (await photographOf(props.code, room, id, newId(), note.value || what, photograph.value))
  const made = await sendOrKeep(() => must(api.POST('/api/v1/households/{code}/attempts', { params: { path: { code: props.code }, header: { 'Idempotency-Key': key } }, body })),
    { code: props.code, room, title: what, method: 'POST', path: `/households/${props.code}/attempts`, body, headers: { 'Idempotency-Key': key } })
  if (picture) await post(picture)
  if (made) emit('done', made)
  else emit('kept', `Kept on this device: ${what}.`)
})
</script>

<template>
  <v-dialog :model-value="true" max-width="480" aria-labelledby="record-title" @update:model-value="emit('leave')">
    <div class="sheet stack">
      <div><h2 id="record-title">{{ test.title }}: {{ test.about.label }}</h2><p class="small quiet">{{ test.expected }}</p><p v-if="test.by === 'automatic'" class="small">A machine can run this test. Record what the screen shows if it shows something else.</p></div>
      <div class="outcomes">
        <button v-for="(word, o) in outcomes" :key="o" type="button" :disabled="busy" @click="record({ outcome: o })"><StateMark :state="o" :word="word" /></button>
      </div>
      <ProblemNote v-if="failure" :failure="failure" />
      <details v-if="test.reading">
        <summary>{{ test.reading === 'lips' ? 'Compute it from a film of the sample clip' : 'Compute it from time codes of the sample clip' }}</summary>
        <div class="stack more">
          <ReadingFields :reads="test.reading" @read="(r) => (reading = r)" />
          <div><v-btn color="primary" :disabled="busy || !reading" @click="record({ reading: reading! })">Compute and record</v-btn></div>
        </div>
      </details>
      <details>
        <summary>Add a note or a photograph first</summary>
        <div class="stack more">
          <v-text-field v-model="note" label="What you saw" />
          <label class="pick"><v-icon :icon="mdiCameraOutline" size="20" /> {{ photograph ? photograph.name : 'Take or choose a photograph' }}<input type="file" accept="image/*" capture="environment" @change="choose" /></label>
          <SampleChoice v-model="sample" />
          <v-text-field v-model="conditions" label="Conditions" placeholder="evening, door closed" />
        </div>
      </details>
      <div><v-btn variant="text" @click="emit('leave')">Cancel</v-btn></div>
    </div>
  </v-dialog>
</template>

<style scoped>
.outcomes { display: grid; grid-template-columns: 1fr 1fr; gap: 10px; }
.outcomes button { min-height: 64px; border: 1.5px solid rgb(var(--v-theme-line)); border-radius: 6px; background: rgb(var(--v-theme-background)); font: inherit; cursor: pointer; }
.outcomes button:hover { border-color: rgb(var(--v-theme-primary)); }
.more { padding-top: 10px; }
summary { min-height: 44px; display: flex; align-items: center; gap: 8px; cursor: pointer; }
summary::before { content: '▸'; }
details[open] > summary::before { content: '▾'; }
</style>
