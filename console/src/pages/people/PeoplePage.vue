<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import { api, must, type Schemas } from '../../api/client'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

type Person = Schemas['Person']
const { data: people, failure, reload } = useResource(() => must(api.GET('/api/v1/people')))
const runs = computed(() => me.session?.person.role === 'coordinator')
const roles = ['technician', 'lead', 'coordinator', 'observer'].map((r) => ({ title: r, value: r }))
const adding = ref(false)
const draft = ref({ login: '', name: '', role: 'technician' as Person['role'] })
const told = ref<Schemas['PersonMade']>()
const leaving = ref<Person>()
const to = ref<string>()
const { failure: refusal, act } = useAction()
const successors = computed(() => people.value?.filter((p) => p.role !== 'observer' && !p.suspended && p.id !== leaving.value?.id).map((p) => ({ title: p.name, value: p.id })) ?? [])

const add = () => act(async () => {
  told.value = await must(api.POST('/api/v1/people', { body: draft.value }))
  adding.value = false
  draft.value = { login: '', name: '', role: 'technician' }
  await reload()
})

const change = (p: Person, body: Schemas['PersonChange']) => act(async () => {
  await must(api.PATCH('/api/v1/people/{id}', { params: { path: { id: p.id } }, body }))
  leaving.value = undefined
  await reload()
})

const reset = (p: Person) => act(async () => {
  told.value = await must(api.POST('/api/v1/people/{id}/reset', { params: { path: { id: p.id } } }))
})

function begin(p: Person) {
  leaving.value = p
  to.value = undefined
}
</script>

<template>
  <v-main id="main">
    <div class="page stack">
      <div class="row between"><h1>People</h1><v-btn v-if="runs && !adding" color="primary" :prepend-icon="mdiPlus" @click="adding = true">Add a person</v-btn></div>
      <form v-if="adding" class="sheet stack" @submit.prevent="add">
        <h2>Add a person</h2>
        <div class="fields">
          <v-text-field v-model="draft.login" v-first label="Log-in name" autocapitalize="none" :error-messages="refusal?.faultAt('/login')" />
          <v-text-field v-model="draft.name" label="Name" :error-messages="refusal?.faultAt('/name')" />
          <v-select v-model="draft.role" :items="roles" label="Role" />
        </div>
        <div class="row"><v-btn type="submit" color="primary" :disabled="!draft.login || !draft.name">Add</v-btn><v-btn variant="text" @click="adding = false">Cancel</v-btn></div>
      </form>
      <p v-if="told" class="sheet" role="status">{{ told.person.name }} logs in as <strong>{{ told.person.login }}</strong> with the password <strong class="mono">{{ told.password }}</strong>. It is shown only once.</p>
      <ProblemNote v-if="refusal" :failure="refusal" />
      <LoadState v-if="!people" :failure="failure" @again="reload" />
      <ul v-else class="plain sheet ruled">
        <li v-for="p in people" :key="p.id">
          <div class="person">
            <div class="grow"><strong>{{ p.name }}</strong> <span class="mono small quiet">{{ p.login }}</span><br /><span class="small quiet">{{ p.role }}<template v-if="p.suspended">, suspended</template></span></div>
            <template v-if="runs">
              <v-btn variant="text" size="small" :aria-label="`New password for ${p.name}`" @click="reset(p)">New password</v-btn>
              <v-btn v-if="p.suspended" variant="outlined" size="small" :aria-label="`Restore ${p.name}`" @click="change(p, { suspended: false })">Restore</v-btn>
              <v-btn v-else-if="p.id !== me.session?.person.id" variant="outlined" size="small" :aria-label="`Suspend ${p.name}`" @click="begin(p)">Suspend</v-btn>
            </template>
          </div>
          <form v-if="leaving?.id === p.id" class="stack leave" @submit.prevent="change(p, { suspended: true, ...(to && { handOnTo: to }) })">
            <p>{{ p.name }} can no longer log in, and every log-in ends. Their homes go to:</p>
            <v-select v-model="to" :items="successors" label="New custodian of their homes" clearable />
            <div class="row"><v-btn type="submit" color="error">Suspend {{ p.name }}</v-btn><v-btn variant="text" @click="leaving = undefined">Cancel</v-btn></div>
          </form>
        </li>
      </ul>
    </div>
  </v-main>
</template>

<style scoped>
.fields { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(240px, 100%), 1fr)); gap: 12px; }
.person { display: flex; gap: 10px; align-items: center; flex-wrap: wrap; min-height: 44px; }
.leave { padding: 10px 0; }
@media (max-width: 899px) { .person .grow { flex-basis: 100%; } }
</style>
