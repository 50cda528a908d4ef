<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import LoadCase from './LoadCase.vue'
import { barOf, stateWords } from './shares'

/** Whether the network carries what is watched, each path alone and the busy sets, and what would relieve it. */
const route = useRoute()
const router = useRouter()
const code = String(route.params.code)
const at = { path: { code } }
const { data, failure, reload } = useResource(async () => must(api.GET('/api/v1/households/{code}/load', { params: at })), { household: code })
const open = computed(() => String(route.query.path ?? ''))
const press = (id: string) => router.replace({ query: open.value === id ? {} : { path: id } })

const chosen = ref<string[]>([])
const sum = ref<Schemas['LoadCase']>()
const { failure: refusal, busy, act } = useAction()
/** Adds up the chosen paths, in use at once. */
const add = () => act(async () => {
  sum.value = await must(api.GET('/api/v1/households/{code}/load/together', { params: { ...at, query: { path: chosen.value } } }))
})
</script>

<template>
  <div class="page stack">
    <h1>Load of the network</h1>
    <p class="quiet">What each path and each busy set takes of every cable, Wi-Fi channel and line, reckoned from the heaviest files with a fifth to spare. Up to 70 % leaves room, up to 90 % is tight.</p>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <p v-if="!data.alone.length" class="sheet quiet">No path is in use yet. <router-link :to="`/households/${code}/paths`">Record the paths</router-link> first.</p>
      <section v-for="s in data.sets" :key="s.set" class="sheet stack-s" :aria-label="s.name">
        <div class="row between"><h2>{{ s.name }}</h2><StateMark :state="s.state" :word="stateWords[s.state]" /></div>
        <LoadCase :of="s" :code="code" />
      </section>
      <section v-if="data.alone.length" class="sheet stack-s" aria-label="Each path alone">
        <h2>Each path alone</h2>
        <ul class="plain ruled">
          <li v-for="c in data.alone" :key="c.paths[0]!.id" class="stack-s">
            <button type="button" class="line row between" :aria-expanded="open === c.paths[0]!.id" @click="press(c.paths[0]!.id)">
              <strong>{{ c.name }}</strong>
              <span class="row"><span v-if="c.uses.length" class="num">{{ c.uses[0]!.atLeast ? 'at least ' : '' }}{{ barOf(c.uses[0]!.share) }}</span><StateMark :state="c.state" :word="stateWords[c.state]" /></span>
            </button>
            <div v-if="c.atOnce >= 0" class="small quiet">{{ c.atOnce === 1 ? 'One such stream fits' : `${c.atOnce} such streams fit` }} over this way at once.</div>
            <LoadCase v-if="open === c.paths[0]!.id" :of="c" :code="code" />
          </li>
        </ul>
      </section>
      <section v-if="data.alone.length > 1" class="sheet stack-s" aria-label="In use at once">
        <h2>In use at once</h2>
        <div class="fields narrow"><label v-for="c in data.alone" :key="c.paths[0]!.id" class="check"><input v-model="chosen" type="checkbox" :value="c.paths[0]!.id">{{ c.name }}</label></div>
        <div><v-btn variant="outlined" :disabled="!chosen.length" :loading="busy" @click="add">Add up</v-btn></div>
        <ProblemNote v-if="refusal" :failure="refusal" />
        <div v-if="sum" class="stack-s quick"><div class="row between"><h3>{{ sum.name }}</h3><StateMark :state="sum.state" :word="stateWords[sum.state]" /></div><LoadCase :of="sum" :code="code" /></div>
      </section>
      <section v-if="data.uplinks.length" class="sheet stack-s" aria-label="Watching from outside">
        <h2>Watching from outside</h2>
        <p v-for="u in data.uplinks" :key="u.line.id">{{ u.said }}</p>
      </section>
    </template>
  </div>
</template>

<style scoped>
.line { width: 100%; min-height: 44px; padding: 0; text-align: left; color: inherit; background: none; border: 0; cursor: pointer; font: inherit; }
.line strong { color: rgb(var(--v-theme-primary)); text-decoration: underline 1px; text-underline-offset: 2px; }
</style>
