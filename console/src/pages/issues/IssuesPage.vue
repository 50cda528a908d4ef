<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, must } from '../../api/client'
import { personName } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { noon, plain, when } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

const router = useRouter()
const code = String(useRoute().params.code)
const { data: issues, failure, reload } = useResource(async () => (await must(api.GET('/api/v1/households/{code}/issues', { params: { path: { code } } }))).records, { household: code })
const { data: overview } = useResource(() => must(api.GET('/api/v1/households/{code}/overview', { params: { path: { code } } })), { household: code })
/** How soon each open issue has to be seen to; the most urgent stand first. */
const urgency = computed(() => new Map(overview.value?.issues.map((i) => [i.record.id, i.urgency])))
const order = ['today', 'this-week', 'can-wait']
const rank = (id: string) => order.indexOf(urgency.value.get(id) ?? 'this-week')
const open = computed(() => issues.value?.filter((i) => i.state !== 'closed').reverse().sort((a, b) => rank(a.id) - rank(b.id)) ?? [])
const closed = computed(() => issues.value?.filter((i) => i.state === 'closed').reverse() ?? [])
const opening = ref(false)
const symptom = ref('')
const reporter = ref('')
const since = ref('')
const promise = ref('')
const until = ref('')
const { failure: refusal, act } = useAction()

const openIssue = (then = '') => act(async () => {
  const made = await must(api.POST('/api/v1/households/{code}/issues', { params: { path: { code } }, body: { symptom: symptom.value, ...(reporter.value && { reporter: reporter.value }),
    ...(since.value && { since: noon(since.value) }), ...(promise.value && { promise: promise.value }), ...(until.value && { promisedUntil: noon(until.value) }) } }))
  await router.push(`/households/${code}/issues/${made.record.id}${then}`)
})
</script>

<template>
  <div class="page stack">
    <div class="row between"><h1>Issues</h1><v-btn v-if="!opening" color="primary" :prepend-icon="mdiPlus" @click="opening = true">Open an issue</v-btn></div>
    <form v-if="opening" class="sheet stack" @submit.prevent="openIssue()">
      <v-text-field v-model="symptom" v-first label="Symptom, as observed" :error-messages="refusal?.faultAt('/symptom')" />
      <v-text-field v-model="reporter" label="Reported by" />
      <div class="fields">
        <v-text-field v-model="since" label="Since when" type="date" />
        <v-text-field v-model="promise" label="What was promised" />
        <v-text-field v-model="until" label="Promised by" type="date" />
      </div>
      <ProblemNote v-if="refusal" :failure="refusal" />
      <div class="row"><v-btn type="submit" color="primary" :disabled="!symptom">Open</v-btn><v-btn variant="outlined" :disabled="!symptom" @click="openIssue('/questions')">Open and ask the caller</v-btn><v-btn variant="text" @click="opening = false">Cancel</v-btn></div>
    </form>
    <LoadState v-if="!issues" :failure="failure" @again="reload" />
    <template v-else>
      <p v-if="!open.length" class="sheet quiet">No issue is open. An issue opened from a failed test closes by itself when the test passes after the remedy.</p>
      <ul v-else class="plain sheet ruled">
        <li v-for="i in open" :key="i.id"><router-link :to="`/households/${code}/issues/${i.id}`" class="row-link">
          <div class="row between"><strong>{{ i.symptom }}</strong><StateMark :state="i.state" /></div>
          <div class="small quiet"><strong v-if="urgency.get(i.id)">{{ plain(urgency.get(i.id)!) }} · </strong>{{ i.owner ? personName(i.owner) : 'no owner' }}<template v-if="i.nextStep"> · next: {{ i.nextStep }}</template><template v-if="i.waitingOn"> · waiting for {{ i.waitingOn }}</template></div>
        </router-link></li>
      </ul>
      <section v-if="closed.length" class="stack-s"><h2>Closed</h2><ul class="plain sheet ruled"><li v-for="i in closed" :key="i.id"><router-link :to="`/households/${code}/issues/${i.id}`" class="row-link"><div class="row between"><span>{{ i.symptom }}</span><span class="small quiet">{{ when(i.closedAt) }}</span></div></router-link></li></ul></section>
    </template>
  </div>
</template>
