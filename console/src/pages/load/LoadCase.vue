<script setup lang="ts">
import { computed } from 'vue'
import { type Schemas } from '../../api/client'
import { useRouter } from 'vue-router'
import { newId } from '../../outbox'
import { suppose } from '../../supposed'
import StateMark from '../../parts/StateMark.vue'
import { barOf, flowSaid, stateWords } from './shares'

/** What one path, or several in use at once, take of everything on their way. */
const props = defineProps<{ of: Schemas['LoadCase']; code: string }>()
const router = useRouter()
async function supposeIt(c: Schemas['LoadChange']) {
  const steps = c.steps.map((step) => (step.verb === 'add' ? { ...step, members: { id: newId(), ...step.members } } : step))
  suppose(props.code, { said: c.said, steps })
  await router.push(`/households/${props.code}/suppose`)
}
const most = computed(() => Math.max(1, ...props.of.uses.map((use) => use.share)))
</script>

<template>
  <div class="stack-s">
    <p>{{ of.said }}</p>
    <p v-for="c in of.converting" :key="c.source.id" class="row"><StateMark :state="c.state === 'enough' ? 'room-left' : c.state === 'too-little' ? 'overloaded' : 'not-known'" :word="c.state === 'enough' ? 'power is enough' : c.state === 'too-little' ? 'too little power' : 'power not known'" /><span class="grow">{{ c.said }}</span></p>
    <ul v-if="of.uses.length" class="plain stack-s" aria-label="What carries it">
      <li v-for="use in of.uses" :key="use.label">
        <div class="row between small"><span><strong>{{ use.label.charAt(0).toUpperCase() + use.label.slice(1) }}</strong><span v-if="use.by.length > 1" class="quiet">: {{ use.by.map((p) => `${p.path.label} ${barOf(p.share)}`).join(', ') }}</span></span>
          <span class="row"><StateMark :state="use.state" :word="stateWords[use.state]" /><span class="num">{{ use.atLeast ? 'at least ' : '' }}{{ barOf(use.share) }}</span></span></div>
        <div class="track" aria-hidden="true">
          <span class="taken" :class="use.state" :style="{ width: `${(100 * use.share) / most}%` }" />
          <span v-for="limit in [0.7, 0.9]" :key="limit" class="limit" :style="{ left: `${(100 * limit) / most}%` }" />
        </div>
      </li>
    </ul>
    <ul class="plain small quiet">
      <li v-for="f in of.flows" :key="f.path.id"><router-link :to="`/households/${code}/records/path/${f.path.id}`">{{ f.path.label }}</router-link> {{ flowSaid(f) }}</li>
    </ul>
    <div v-if="of.changes.length" class="stack-s">
      <h3>What would leave more room</h3>
      <ol class="plain ruled"><li v-for="c in of.changes" :key="c.said" class="row between"><span class="grow">{{ c.said }}</span><span class="row"><StateMark :state="c.state" :word="stateWords[c.state]" /><span class="num">{{ barOf(c.share) }}</span><v-btn v-if="c.steps.length" size="small" variant="outlined" @click="supposeIt(c)">Suppose it</v-btn></span></li></ol>
    </div>
    <p v-else-if="of.state === 'tight' || of.state === 'overloaded'" class="small quiet">No single change is known that would leave more room.</p>
    <p v-if="of.surest" class="small quiet">A reading taken at {{ of.surest.label }} in the evening would help most to make this certain.</p>
  </div>
</template>

<style scoped>
.track { position: relative; height: 12px; margin-top: 2px; background: rgba(var(--v-theme-on-surface), .08); border-radius: 2px; }
.taken { position: absolute; inset: 0 auto 0 0; min-width: 2px; border-radius: 2px; background: rgb(var(--v-theme-untried)); }
.taken.room-left { background: rgb(var(--v-theme-proven)); }
.taken.tight { background: rgb(var(--v-theme-marginal)); }
.taken.overloaded { background: rgb(var(--v-theme-failed)); }
.limit { position: absolute; top: -2px; bottom: -2px; width: 1.5px; background: rgba(var(--v-theme-on-surface), .6); }
</style>
