<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, must, sendBytes, type Schemas } from '../../api/client'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { counted } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

/** The firm's own steps for programs and device models. */
type Recipe = Schemas['Recipe']
const { data: recipes, failure, reload } = useResource(() => must(api.GET('/api/v1/recipes')))
const mayChange = computed(() => ['lead', 'coordinator'].includes(me.session?.person.role ?? ''))
const removing = ref('')
const said = ref('')
const { failure: refusal, busy, act } = useAction()

const take = (event: Event) => act(async () => {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const text = await file.text()
  input.value = ''
  const all = await sendBytes<Recipe[]>('/recipes', text, { 'Content-Type': 'application/yaml' })
  said.value = `Stored. The firm now has ${counted(all.length, 'recipe')}.`
  await reload()
})
const remove = (name: string) => act(async () => {
  await must(api.DELETE('/api/v1/recipes/{name}', { params: { path: { name } } }))
  removing.value = ''
  await reload()
})
const forWhat = (r: Recipe) => (r.software ? `program ${r.software}` : `device ${[r.make, r.model].filter(Boolean).join(' ')}`)
</script>

<template>
  <v-main id="main">
    <div class="page stack">
      <div class="row between"><h1>Recipes</h1><a v-if="recipes?.length" href="/api/v1/recipes/file" download="recipes.yaml">Download all</a></div>
      <p class="quiet">The firm's own steps for a program or a device model. In every home that has it, they appear with the prerequisites of the paths and on the page of what to enter. What the firm knows of models of devices and of versions is on <router-link to="/knowledge">another page</router-link>.</p>
      <label v-if="mayChange" class="pick">{{ busy ? 'Reading …' : 'Add recipes from a file' }}<input type="file" accept=".yaml,.yml,.json,text/*" :disabled="busy" @change="take" /></label>
      <p v-if="said" role="status">{{ said }}</p>
      <ProblemNote v-if="refusal" :failure="refusal" />
      <LoadState v-if="!recipes" :failure="failure" @again="reload" />
      <p v-else-if="!recipes.length" class="sheet quiet">No recipe yet. A recipe is a file of the form kaiku-recipes/1; the guide shows an example.</p>
      <section v-for="r in recipes" :key="r.name" class="sheet stack-s" :aria-label="r.name">
        <div class="row between"><h2>{{ r.name }}</h2><span class="small quiet">{{ forWhat(r) }}</span></div>
        <p v-if="r.note">{{ r.note }}</p>
        <ol class="ruled steps"><li v-for="s in r.steps" :key="s.setting"><template v-if="s.menu"><span class="quiet">{{ s.menu }}</span> › </template>{{ s.setting }}: <strong>{{ s.value }}</strong><span v-if="s.why" class="small quiet"><br />{{ s.why }}</span></li></ol>
        <template v-if="mayChange"><div v-if="removing === r.name" class="row"><span>The settings recorded by its steps stay.</span><v-btn color="error" size="small" @click="remove(r.name)">Remove it</v-btn><v-btn variant="text" size="small" @click="removing = ''">Cancel</v-btn></div>
          <div v-else><v-btn variant="text" size="small" :aria-label="`Remove ${r.name}`" @click="removing = r.name">Remove</v-btn></div></template>
      </section>
    </div>
  </v-main>
</template>

<style scoped>
.steps { margin: 0; padding-left: 1.4em; }
.steps li { padding: 8px 0; }
</style>
