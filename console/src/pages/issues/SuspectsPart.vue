<script setup lang="ts">
import { mdiFormatListChecks } from '@mdi/js'
import { computed, ref } from 'vue'
import { api, must, type Schemas } from '../../api/client'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { counted, when } from '../../words'
import LikelihoodBar from './LikelihoodBar.vue'
import { answerTo, beginning, noOf, noted, useSuspects, yesOf } from './suspects'

/** Which faults would explain what is known, what to do next, and what the caller has said. */
const emit = defineEmits<{ found: [Schemas['Suspect']] }>()
const props = defineProps<{ code: string; issue: string; mayWrite: boolean }>()
const { data, failure, reload, refusal, busy, act, answer } = useSuspects(props.code, props.issue)

const complaint = ref('')
const about = ref('')
const complaints = computed(() => data.value?.complaints.map((c) => ({ title: c.text, value: c.code })) ?? [])
const paths = computed(() => data.value?.paths.map((p) => ({ title: p.label, value: p.id })) ?? [])
const note = async () => { await answer({ question: complaint.value, about: { kind: 'path', id: about.value }, said: 'yes' }); complaint.value = '' }

const run = (test: string) => act(async () => { await must(api.POST('/api/v1/households/{code}/tests/run', { params: { path: { code: props.code } }, body: { tests: [test] } })) })

const by = { caller: 'the caller', technician: 'the technician', machine: 'Kaiku by itself' }
</script>

<template>
  <section class="sheet stack" aria-labelledby="suspects">
    <div class="row between">
      <h2 id="suspects">What would explain it</h2>
      <v-btn v-if="mayWrite" variant="outlined" :prepend-icon="mdiFormatListChecks" :to="`/households/${code}/issues/${issue}/questions`">Ask the caller</v-btn>
    </div>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <p role="status">{{ data.sentence }}</p>
      <ol v-if="data.suspects.length" class="plain ruled">
        <li v-for="s in data.suspects" :key="s.mode + s.about.id" class="stack-s">
          <LikelihoodBar :probability="s.probability" :word="s.word" />
          <div><strong>{{ s.title }}</strong>, {{ s.about.label }}<template v-if="s.with">, together with this: {{ s.with }}</template></div>
          <details>
            <summary>Why, how to see it, and what to do</summary>
            <dl class="facts">
              <template v-if="s.for.length"><dt>For it</dt><dd><div v-for="x in s.for" :key="x">{{ x }}</div></dd></template>
              <template v-if="s.against.length"><dt>Against it</dt><dd><div v-for="x in s.against" :key="x">{{ x }}</div></dd></template>
              <dt>To see it</dt><dd>{{ s.look }} <span class="quiet small">{{ by[s.lookBy] }}, {{ counted(s.lookMinutes, 'minute') }}</span></dd>
              <dt>Remedy</dt><dd>{{ s.remedy }} <span class="quiet small">{{ counted(s.minutes, 'minute') }}</span></dd>
              <template v-if="s.bring?.length"><dt>Bring</dt><dd>{{ s.bring.join(', ') }}</dd></template>
              <template v-if="s.proves.length"><dt>Proven by</dt><dd><div v-for="t in s.proves" :key="t.id"><router-link :to="`/households/${code}/proving/${t.id}`">{{ t.label }}</router-link></div></dd></template>
              <dt>Odds from</dt><dd>{{ s.source }}</dd>
            </dl>
            <v-btn v-if="mayWrite" size="small" variant="outlined" @click="emit('found', s)">It was this</v-btn>
          </details>
        </li>
      </ol>
      <p v-if="data.failures" class="small quiet">The probabilities are estimates: the odds that they rest on are judgement. {{ counted(data.evidence, 'piece') }} of evidence weighed; none of the known faults: about {{ Math.round(100 * data.none) }} %.</p>
      <template v-if="data.steps.length">
        <h3>What to do next</h3>
        <ol class="plain ruled">
          <li v-for="s in data.steps" :key="s.kind + (s.test ?? s.question ?? s.mode) + s.about?.id" class="stack-s">
            <div>{{ beginning(s) }}<router-link v-if="s.test" :to="`/households/${code}/proving/${s.test}`">{{ s.sentence }}</router-link><template v-else>{{ s.sentence }}</template><template v-if="s.kind === 'look' && s.about?.label"> <span class="quiet">({{ s.about.label }})</span></template></div>
            <div class="small quiet">{{ by[s.by] }}, {{ s.minutes < 1 ? 'half a minute' : counted(s.minutes, 'minute') }}; narrows it down by about {{ s.bits.toFixed(1) }} bits</div>
            <details v-if="s.then?.length"><summary>What follows</summary><div v-for="x in s.then" :key="x" class="small">{{ x }}</div></details>
            <div v-if="mayWrite && s.by === 'machine' && me.session?.onSite"><v-btn size="small" variant="outlined" :disabled="busy" @click="run(s.test!)">Run it now</v-btn></div>
            <div v-if="mayWrite && noted(s)" class="row">
              <v-btn size="small" variant="outlined" :disabled="busy" @click="answer(answerTo(s, 'yes'))">{{ yesOf(s) }}</v-btn>
              <v-btn size="small" variant="outlined" :disabled="busy" @click="answer(answerTo(s, 'no'))">{{ noOf(s) }}</v-btn>
            </div>
          </li>
        </ol>
      </template>
      <template v-if="data.changes.length">
        <h3>Changed shortly before</h3>
        <ul class="plain ruled">
          <li v-for="c in data.changes" :key="c.about.id" class="row between">
            <div><div><strong>{{ c.about.label }}</strong></div><div v-for="x in c.what" :key="x" class="small">{{ x }}</div><div class="small quiet">{{ when(c.at) }}, {{ c.by }}</div></div>
            <v-btn v-if="mayWrite && !data.answers.some((a) => a.question === 'after-change' && a.about?.id === c.about.id)" size="small" variant="outlined" :disabled="busy" @click="answer({ question: 'after-change', about: { kind: c.about.kind, id: c.about.id }, said: 'yes' })">It came after this</v-btn>
          </li>
        </ul>
      </template>
      <template v-if="mayWrite">
        <h3>What the caller says is wrong</h3>
        <form class="fields" @submit.prevent="note">
          <v-select v-model="complaint" :items="complaints" label="What is wrong" />
          <v-select v-model="about" :items="paths" label="On which path" />
          <v-btn type="submit" color="primary" :disabled="busy || !complaint || !about">Note it</v-btn>
        </form>
      </template>
      <ProblemNote v-if="refusal" :failure="refusal" />
      <template v-if="data.answers.length">
        <h3>Noted so far</h3>
        <ul class="plain ruled">
          <li v-for="a in data.answers" :key="a.question + a.about?.id" class="row between">
            <div><div>{{ a.asked }} <strong>{{ a.said ?? 'not known' }}</strong></div><div class="small quiet">{{ when(a.at) }}, {{ a.by }}</div></div>
            <v-btn v-if="mayWrite" size="small" variant="text" :disabled="busy" @click="answer({ question: a.question, about: a.about, takenBack: true })">Take back</v-btn>
          </li>
        </ul>
      </template>
    </template>
  </section>
</template>
