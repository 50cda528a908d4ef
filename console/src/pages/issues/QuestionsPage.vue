<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import LikelihoodBar from './LikelihoodBar.vue'
import { answerTo, noOf, useSuspects, yesOf } from './suspects'

/** One question a screen, for whoever has the caller on the telephone: the most telling that a layman can answer. */
const route = useRoute()
const path = { code: String(route.params.code), id: String(route.params.id) }
const back = `/households/${path.code}/issues/${path.id}`
const { data, failure, reload, refusal, busy, answer: note } = useSuspects(path.code, path.id)
const complaint = ref('')
const begun = computed(() => (data.value?.failures ?? 0) > 0)
const step = computed(() => data.value?.steps.find((s) => s.by === 'caller'))
const first = computed(() => data.value?.suspects[0])
const last = computed(() => data.value?.answers.at(-1))

const send = async (body: Parameters<typeof note>[0]) => {
  await note(body)
  if (!refusal.value) complaint.value = ''
}
const answer = (said?: 'yes' | 'no') => { if (step.value) void send(answerTo(step.value, said)) }
const takeBack = () => { if (last.value) void send({ question: last.value.question, about: last.value.about, takenBack: true }) }
</script>

<template>
  <div class="page stack">
    <p class="small"><router-link :to="back">The issue</router-link></p>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <section v-if="!begun" class="sheet stack" aria-labelledby="ask">
        <h1 id="ask">{{ complaint ? 'On which path?' : 'What does the caller say is wrong?' }}</h1>
        <div class="stack-s">
          <template v-if="!complaint"><v-btn v-for="c in data.complaints.filter((x) => x.code !== 'works')" :key="c.code" block size="large" variant="outlined" class="wide" @click="complaint = c.code">{{ c.text }}</v-btn></template>
          <template v-else>
            <v-btn v-for="p in data.paths" :key="p.id" block size="large" variant="outlined" class="wide" :disabled="busy" @click="send({ question: complaint, about: { kind: 'path', id: p.id }, said: 'yes' })">{{ p.label }}</v-btn>
            <v-btn block variant="text" @click="complaint = ''">Something else is wrong</v-btn>
          </template>
        </div>
      </section>
      <section v-else-if="step" class="sheet stack" aria-labelledby="ask">
        <h1 id="ask" aria-live="polite">{{ step.sentence }}</h1>
        <p v-if="step.kind === 'look' && step.about?.label" class="quiet">{{ step.about.label }}</p>
        <v-btn block size="x-large" color="primary" :disabled="busy" @click="answer('yes')">{{ yesOf(step) }}</v-btn>
        <v-btn block size="x-large" color="primary" variant="outlined" :disabled="busy" @click="answer('no')">{{ noOf(step) }}</v-btn>
        <v-btn block size="x-large" variant="outlined" :disabled="busy" @click="answer()">I don't know</v-btn>
      </section>
      <section v-else class="sheet stack"><h1>Nothing more to ask</h1><p>No question that the caller can answer would tell much more. <router-link :to="back">The issue</router-link> says what to test and to look at.</p></section>
      <ProblemNote v-if="refusal" :failure="refusal" />
      <div v-if="last" class="row between"><span class="small quiet">Last: {{ last.asked }} {{ last.said ?? 'not known' }}</span><v-btn variant="text" :disabled="busy" @click="takeBack">Take back</v-btn></div>
      <section v-if="begun && first" class="sheet stack-s" aria-labelledby="sofar"><h2 id="sofar">So far</h2><LikelihoodBar :probability="first.probability" :word="first.word" /><p>{{ first.title }}, {{ first.about.label }}</p><p class="small quiet">{{ data.sentence }}</p></section>
    </template>
  </div>
</template>

<style scoped>
.wide { white-space: normal; height: auto; min-height: 48px; padding-block: 10px; }
.wide :deep(.v-btn__content) { white-space: normal; text-align: left; }
</style>
