<script setup lang="ts">
import { api, must, type Schemas } from '../api/client'
import { when } from '../words'
import { useAction } from '../useAction'
import ProblemNote from './ProblemNote.vue'

/** The firm's steps for a program or device, each with its tick. */
const props = defineProps<{ steps: Schemas['RecipeStep'][]; code: string; mayWrite: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const { failure, busy, act } = useAction()

const set = (s: Schemas['RecipeStep']) => act(async () => {
  await must(api.POST('/api/v1/households/{code}/recipe-steps', { params: { path: { code: props.code } }, body: { recipe: s.recipe, setting: s.setting, subject: { kind: s.at.kind, id: s.at.id } } }))
  emit('changed')
})

function state(s: Schemas['RecipeStep']): string {
  if (s.set) return `set ${when(s.setAt, false)}`
  if (!s.found) return 'to do'
  return s.found.toLowerCase() === s.value.toLowerCase() ? 'to be confirmed' : `recorded: ${s.found}`
}
</script>

<template>
  <ol class="plain ruled">
    <li v-for="s in steps" :key="s.recipe + s.at.id + s.setting" class="step">
      <label><input type="checkbox" :checked="s.set" :disabled="!mayWrite || s.set || busy" @change="set(s)" />
        <span><template v-if="s.menu"><span class="quiet">{{ s.menu }}</span> › </template>{{ s.setting }}: <strong>{{ s.value }}</strong><br /><span class="small quiet">{{ s.at.label }}<template v-if="s.why">. {{ s.why }}</template></span></span></label>
      <span class="small state">{{ state(s) }}</span>
    </li>
  </ol>
  <ProblemNote v-if="failure" :failure="failure" />
</template>

<style scoped>
.step { display: flex; gap: 12px; align-items: center; justify-content: space-between; }
.step label { display: flex; gap: 12px; align-items: flex-start; cursor: pointer; min-width: 0; }
.step input { width: 20px; height: 20px; margin: 2px 0 0; flex: none; accent-color: rgb(var(--v-theme-primary)); }
.state { text-align: right; flex: none; max-width: 40%; }
</style>
