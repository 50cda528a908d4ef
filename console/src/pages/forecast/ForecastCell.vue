<script setup lang="ts">
import { ref } from 'vue'
import { api, must, type Schemas } from '../../api/client'
import CodeCard from '../../parts/CodeCard.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { counted, plain } from '../../words'
import { useAction } from '../../useAction'
import { outcomeWords, playingTime } from './grades'

/** Why a folder plays on a device or does not, format by format. */
const props = defineProps<{ cell: Schemas['ForecastCell']; device: string; folder: string; code: string; heading: 'h2' | 'h3' }>()
const invited = ref<Schemas['Code']>()
const { failure, act } = useAction()
/** A code for the browser of the device, which then says itself what it decodes. */
const invite = () => act(async () => { invited.value = await must(api.POST('/api/v1/households/{code}/measure-codes', { params: { path: { code: props.code } }, body: { device: props.cell.device } })) })
</script>

<template>
  <div class="stack-s">
    <component :is="heading">{{ folder }} on {{ device }}</component>
    <p class="small quiet">By the path <router-link :to="`/households/${code}/records/path/${cell.path.id}`">{{ cell.path.label }}</router-link>; what is in <router-link :to="`/households/${code}/folders/${cell.folder}`">{{ folder }}</router-link>.</p>
    <p v-for="one in cell.against" :key="one" class="row"><StateMark state="warning" word="contradiction" /><span class="grow">{{ one }}</span></p>
    <p v-if="cell.tried?.length" class="small">Tests of the path: <template v-for="(t, n) in cell.tried" :key="t.test">{{ n ? ', ' : '' }}<router-link :to="`/households/${code}/proving/${t.test}`">{{ t.title.toLowerCase() }}</router-link> {{ plain(t.status) }}</template>.</p>
    <p v-if="cell.unread" class="small">The formats of {{ counted(cell.unread, 'item') }} are not recorded; nothing is said of them.</p>
    <p v-if="!cell.lines.length">{{ cell.why }}</p>
    <ul class="plain ruled">
      <li v-for="(l, n) in cell.lines" :key="n" class="stack-s line">
        <div class="row between"><StateMark :state="l.outcome" :word="outcomeWords[l.outcome]" /><span class="small num">{{ counted(l.items, 'item') }}<template v-if="l.hours">, {{ playingTime(l.hours) }}</template></span></div>
        <div>{{ l.format }}</div>
        <div class="small quiet">{{ l.why }}<template v-for="one in l.beside" :key="one">{{ ' ' + one }}</template><template v-if="l.cause === 'setting'"> A setting decides this, not the device.</template></div>
        <div v-if="l.evidence && l.outcome !== 'not-known'" class="small quiet">Known by: {{ plain(l.evidence) }}</div>
      </li>
    </ul>
    <div v-if="!invited"><v-btn variant="outlined" size="small" @click="invite">Ask the browser of {{ device }}</v-btn></div>
    <CodeCard v-else :code="invited" :how="`Photograph it with ${device}, or open this address there. Its browser then says what it decodes:`" />
    <ProblemNote v-if="failure" :failure="failure" />
  </div>
</template>

<style scoped>
.line { gap: 2px; }
</style>
