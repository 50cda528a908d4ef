<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, must } from '../../api/client'
import { me, personName } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { when } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

const router = useRouter()
const code = String(useRoute().params.code)
const { data, failure, reload } = useResource(async () => {
  const path = { code }
  const [{ records: list }, overview] = await Promise.all([must(api.GET('/api/v1/households/{code}/handovers', { params: { path } })), must(api.GET('/api/v1/households/{code}/overview', { params: { path } }))])
  return { list: [...list].reverse(), overview }
}, { household: code })
const mayDraft = computed(() => data.value?.overview.mayWrite && data.value.list[0]?.state !== 'offered')
const receivers = computed(() => me.people.filter((p) => p.role !== 'observer' && p.id !== data.value?.overview.custodian.id).map((p) => ({ title: p.name, value: p.id })))
const to = ref<string>()
const note = ref('')
const { failure: refusal, act } = useAction()

const draft = () => act(async () => {
  const made = await must(api.POST('/api/v1/households/{code}/handovers', { params: { path: { code } }, body: { to: to.value ?? '', ...(note.value && { note: note.value }) } }))
  await router.push(`/households/${code}/handover/${made.record.id}`)
})
</script>

<template>
  <div class="page stack">
    <h1>Handover</h1>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <form v-if="mayDraft" class="sheet stack" @submit.prevent="draft">
        <h2>Hand this home over</h2>
        <p class="small quiet">Kaiku lists what has changed since the last accepted handover. {{ data.overview.custodian.name }} stays responsible until it is accepted.</p>
        <v-select v-model="to" :items="receivers" label="To" />
        <v-textarea v-model="note" label="Note: what not to touch and why, what to bring, what was promised" />
        <ProblemNote v-if="refusal" :failure="refusal" />
        <div><v-btn type="submit" color="primary" :disabled="!to">Draft</v-btn></div>
      </form>
      <p v-if="!data.list.length" class="sheet quiet">No handover yet.</p>
      <ul v-else class="plain sheet ruled">
        <li v-for="h in data.list" :key="h.id"><router-link :to="`/households/${code}/handover/${h.id}`" class="row-link row between"><span>{{ personName(h.from) }} to {{ personName(h.to) }} <span class="small quiet">{{ when(h.draftedAt) }}</span></span><StateMark :state="h.state" /></router-link></li>
      </ul>
    </template>
  </div>
</template>
