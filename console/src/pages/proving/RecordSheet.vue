<script setup lang="ts">
import { ref } from 'vue'
import { api, must, type Schemas, type Test } from '../../api/client'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'
import { outcomes, type Outcome } from './outcomes'

/** How a test went on the screen: the second tap records it. */
const props = defineProps<{ test: Test; code: string; asOf: number }>()
const emit = defineEmits<{ done: [made: Schemas['AttemptMade']]; leave: [] }>()
const note = ref('')
const conditions = ref('')
const sample = ref('')
const { failure, busy, act } = useAction()
/** The sample clips, as kaiku reel list shows them. */
const samples = ['h264-1080p25-aac', 'h264-1080p50-aac', 'h264-720p25-aac-index-last', 'hevc10-hdr-1080p25-aac', 'hevc10-2160p25-aac', 'mpeg2-576i25-ac3', 'h264-1080p25-ac3-51', 'mpeg4-576p25-mp3', 'vp9-720p25-opus', 'flac-16-44', 'flac-24-96', 'mp3', 'vorbis', 'aac', 'jpeg']

const record = (outcome: Outcome) => act(async () => {
  const body = { test: props.test.id, outcome, asOf: props.asOf, ...(note.value && { note: note.value }), ...(conditions.value && { conditions: conditions.value }), ...(sample.value && { sample: sample.value }) }
  emit('done', await must(api.POST('/api/v1/households/{code}/attempts', { params: { path: { code: props.code } }, body })))
})
</script>

<template>
  <v-dialog :model-value="true" max-width="480" aria-labelledby="record-title" @update:model-value="emit('leave')">
    <div class="sheet stack">
      <div><h2 id="record-title">{{ test.title }}: {{ test.about.label }}</h2><p class="small quiet">{{ test.expected }}</p><p v-if="test.by === 'automatic'" class="small">A machine can run this test. Record what the screen shows if it shows something else.</p></div>
      <div class="outcomes">
        <button v-for="(word, o) in outcomes" :key="o" type="button" :disabled="busy" @click="record(o)"><StateMark :state="o" :word="word" /></button>
      </div>
      <ProblemNote v-if="failure" :failure="failure" />
      <details>
        <summary>Add a note first</summary>
        <div class="stack more">
          <v-text-field v-model="note" label="What you saw" />
          <v-select v-model="sample" :items="samples" clearable label="Sample clip that was played" hint="What it shows of the device's decoding is recorded." persistent-hint />
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
summary { min-height: 44px; display: flex; align-items: center; cursor: pointer; }
</style>
