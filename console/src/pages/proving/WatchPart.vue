<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, must, type Schemas } from '../../api/client'
import type { Job } from '../../follow'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'
import { useJob } from '../../useJob'

/** Kaiku watches the server while a person restarts it, wakes it or copies a sample clip. What it saw goes with the result. */
const props = defineProps<{ code: string; test: string }>()
const emit = defineEmits<{ seen: [seen: Schemas['WatchSeen'] | undefined] }>()
const last = ref<Schemas['WatchSeen']>()
const { failure, busy, act } = useAction()
function ended(j: Job) {
  last.value = j.watched
  emit('seen', j.watched)
}
const { job, start, stop } = useJob(props.code, 'watch', () => must(api.POST('/api/v1/households/{code}/tests/watch', { params: { path: { code: props.code } }, body: { test: props.test } })), ended)
const moments = computed(() => (job.value?.watched ?? last.value)?.moments ?? [])
const begin = () => act(async () => { last.value = undefined; emit('seen', undefined); await start() })
const end = () => act(async () => { await stop() })
</script>

<template>
  <div class="stack-s">
    <div><v-btn v-if="!job" variant="outlined" :disabled="busy" @click="begin">{{ last ? 'Watch again' : 'Let Kaiku watch the server' }}</v-btn><v-btn v-else variant="outlined" :disabled="busy" @click="end">Stop watching</v-btn></div>
    <ol v-if="moments.length" class="seen" aria-live="polite"><li v-for="m in moments" :key="m.what + m.afterS">{{ m.sentence }}</li></ol>
    <p v-else-if="job" role="status" class="small">Looking for the server …</p>
    <ProblemNote v-if="failure" :failure="failure" />
  </div>
</template>

<style scoped>
.seen { margin: 0; padding-left: 24px; }
</style>
