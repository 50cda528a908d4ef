<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import { floorName } from '../../words'
import { useResource } from '../../useResource'
import LoadCase from '../load/LoadCase.vue'
import DeviceBox from './DeviceBox.vue'
import { linesOf, type Box } from './lines'
import { tintOf } from './tints'

/** Network drawing by floor and room; on a narrow screen as a tree from where the line ends. */
const code = String(useRoute().params.code)
const { data, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/drawing', { params: { path: { code } } })), { household: code })
/** What flows is drawn as threads along the links, for a path or a busy set that is chosen. */
const { data: load } = useResource(() => must(api.GET('/api/v1/households/{code}/load', { params: { path: { code } } })), { household: code })
const flows = computed(() => [...(load.value?.sets ?? []), ...(load.value?.alone ?? [])].filter((c) => c.flows.some((f) => f.links.length)))
const chosen = ref<string | null>(null)
const shown = computed(() => flows.value.find((c) => keyOf(c) === chosen.value))
const keyOf = (c: Schemas['LoadCase']) => c.set || c.paths[0]!.id
const choices = computed(() => flows.value.map((c) => ({ title: c.name, value: keyOf(c) })))
/** How many flows go over each link, and which links are part of what is taken most. */
const threads = computed(() => {
  const out = new Map<string, number>()
  for (const f of shown.value?.flows ?? []) for (const l of f.links) out.set(l, (out.get(l) ?? 0) + 1)
  return out
})
const narrowest = computed(() => new Set([shown.value?.uses[0]?.link, ...(shown.value?.uses[0]?.links ?? [])]))
const plane = useTemplateRef<HTMLElement>('plane')
const wide = ref(false)
const columns = 4
/** Floors with few rooms stand beside each other, as many as fit, so that most homes are seen whole. */
const rows = computed(() => {
  const out: { floors: Schemas['DrawnFloor'][]; rooms: number }[] = []
  for (const f of data.value?.floors ?? []) {
    const last = out.at(-1)
    const rooms = Math.min(columns, f.rooms.length)
    if (last && last.rooms + rooms <= columns) { last.floors.push(f); last.rooms += rooms } else out.push({ floors: [f], rooms })
  }
  return out
})
const all = computed(() => (data.value?.floors ?? []).flatMap((f) => f.rooms.flatMap((r) => r.devices.map((d) => ({ ...d, room: r.room?.label ?? '' })))))
const spare = computed(() => links.value.filter((l) => l.spare))
const nameOf = (id: string) => all.value.find((d) => d.device.id === id)?.device.label ?? ''
const links = computed(() => data.value?.links ?? [])
const lines = ref<{ id: string; path: string; link: Schemas['DrawnLink'] }[]>([])
const height = ref(0)

/** The tree: each device below the one through which it reaches the line, then what nothing joins. */
const tree = computed(() => {
  const out: ((typeof all.value)[number] & { depth: number })[] = []
  const grow = (parent: string) => { for (const d of all.value) if (d.depth >= 0 && (d.parent ?? '') === parent) { out.push(d); grow(d.device.id) } }
  grow('')
  return [...out, ...all.value.filter((d) => d.depth < 0)]
})

function measure() {
  const p = plane.value
  if (!p) return
  const origin = p.getBoundingClientRect()
  const boxes: Box[] = [...p.querySelectorAll<HTMLElement>('[data-device]')].map((e) => {
    const r = e.getBoundingClientRect()
    const room = e.closest<HTMLElement>('[data-room]')!
    return { id: e.dataset.device!, left: r.left - origin.left, top: r.top - origin.top, right: r.right - origin.left, bottom: r.bottom - origin.top, column: Math.round(room.getBoundingClientRect().left), rowTop: room.getBoundingClientRect().top - origin.top }
  })
  // A link is drawn from its child to its parent; a spare one as it was recorded.
  const parents = new Map(all.value.map((d) => [d.device.id, d]))
  const ways = links.value.map((l) => (parents.get(l.to)?.up?.id === l.id ? { id: l.id, from: l.to, to: l.from } : { id: l.id, from: l.from, to: l.to }))
  const drawn = linesOf(boxes, ways)
  lines.value = drawn.map((d) => ({ ...d, link: links.value.find((l) => l.id === d.id)! }))
  height.value = p.scrollHeight
}

const observer = new ResizeObserver(() => requestAnimationFrame(() => { wide.value = (plane.value?.parentElement?.clientWidth ?? 0) >= 900; measure() }))
onMounted(() => { document.fonts.ready.then(measure).catch(() => undefined) })
watch(plane, (p) => { if (p?.parentElement) observer.observe(p.parentElement) })
watch([data, wide], () => void nextTick(measure))
onBeforeUnmount(() => observer.disconnect())

// The boxes are one stop of the tab key; the arrows go through them in reading order.
const at = ref(0)
function go(e: KeyboardEvent) {
  const by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[e.key]
  const boxes = [...(e.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('[data-device] a')]
  if (e.key === 'Home') at.value = 0
  else if (e.key === 'End') at.value = boxes.length - 1
  else if (by) at.value = Math.min(boxes.length - 1, Math.max(0, at.value + by))
  else return
  e.preventDefault()
  boxes[at.value]?.focus()
}
const nth = (id: string) => (wide.value ? all.value : tree.value).findIndex((d) => d.device.id === id)
const dash: Record<string, string> = { cable: '', fibre: '', radio: '5 5', powerline: '11 4 2 4', coax: '11 4', display: '2 4' }
const kinds = computed(() => [...new Set(links.value.map((l) => l.kind))].sort())
const print = () => window.print()
</script>

<template>
  <div class="page stack">
    <div class="row between"><h1>Network drawing <span class="mono quiet">{{ code }}</span></h1><span class="row noprint"><router-link :to="`/households/${code}/survey/addresses`">Address plan</router-link><router-link :to="`/households/${code}/survey/walk`">Walk</router-link><v-btn variant="outlined" size="small" @click="print">Print</v-btn></span></div>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <p v-else-if="!all.length" class="sheet">Nothing to draw yet: record devices and their links on the <router-link :to="`/households/${code}/survey/walk`">walk</router-link>.</p>
    <template v-else>
      <ul class="plain row small legend" aria-label="Segments and kinds of link">
        <li v-for="s in data.segments" :key="s.id" class="row"><svg width="26" height="12" aria-hidden="true"><line x1="1" y1="6" x2="25" y2="6" stroke-width="6" :stroke="tintOf(data.segments, s.id).colour" :stroke-dasharray="tintOf(data.segments, s.id).dash" /></svg>{{ s.label }}</li>
        <li v-for="k in kinds" :key="k" class="row"><svg width="34" height="12" aria-hidden="true"><line x1="1" y1="6" x2="33" y2="6" stroke="currentColor" :stroke-width="k === 'fibre' ? 4 : 2" :stroke-dasharray="dash[k]" /></svg>{{ k }}</li>
      </ul>
      <div v-if="choices.length" class="noprint pickflow"><v-select v-model="chosen" label="Show what flows" :items="choices" density="compact" hide-details clearable />
        <span v-if="shown && wide" class="small quiet">Broad lines show what flows; the dashed ones are taken most.</span></div>
      <section v-if="shown" class="sheet stack-s" :class="{ last: wide }" :aria-label="`What flows: ${shown.name}`"><h2>{{ shown.name }}</h2><LoadCase :of="shown" :code="code" /></section>
      <div class="holder">
        <div ref="plane" class="plane" :class="{ wide }" role="group" :aria-label="`The network of ${code}`" @keydown="go">
          <template v-if="wide">
            <svg class="lines" :height="height" width="100%" aria-hidden="true"><path v-for="l in lines.filter((one) => threads.has(one.id))" :key="`flow ${l.id}`" :d="l.path" fill="none" class="thread" :class="{ narrow: narrowest.has(l.id) }" :stroke-width="4 + 5 * threads.get(l.id)!" /><path v-for="l in lines" :key="l.id" :d="l.path" fill="none" :class="['link', l.link.severity, l.link.load, { spare: l.link.spare }]" :stroke-dasharray="dash[l.link.kind]" :stroke-width="l.link.kind === 'fibre' ? 4 : 2" /></svg>
            <div v-for="(row, n) in rows" :key="n" class="floors" :style="{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }">
              <section v-for="f in row.floors" :key="`${f.floor}${f.rooms[0]?.room?.id ?? ''}`" class="floor" :style="{ gridColumn: `span ${Math.min(columns, f.rooms.length)}` }" :aria-label="f.rooms[0]?.room ? floorName(f.floor) : 'No room recorded'">
                <h2>{{ f.rooms[0]?.room ? floorName(f.floor) : 'No room recorded' }}</h2>
                <div class="rooms" :style="{ gridTemplateColumns: `repeat(${Math.min(columns, f.rooms.length)}, minmax(0, 1fr))` }">
                  <div v-for="r in f.rooms" :key="r.room?.id ?? ''" class="room" data-room>
                    <h3>{{ r.room?.label ?? '' }}</h3>
                    <ul class="plain stack-s" :aria-label="r.room?.label ?? 'No room recorded'"><li v-for="d in r.devices" :key="d.device.id" :data-device="d.device.id"><DeviceBox :device="d" :code="code" :segments="data.segments" :tab="nth(d.device.id) === at ? 0 : -1" @at="at = nth(d.device.id)" /></li></ul>
                    <p v-if="r.outlets.length" class="small quiet">{{ r.outlets.join(' · ') }}</p>
                  </div>
                </div>
              </section>
            </div>
          </template>
          <ul v-else class="plain stack-s" aria-label="The network as a tree">
            <li v-for="d in tree" :key="d.device.id" :data-device="d.device.id" data-room :style="{ marginLeft: `${Math.min(Math.max(d.depth, 0), 5) * 18}px` }"><DeviceBox :device="d" :code="code" :segments="data.segments" :room="d.room" :tab="nth(d.device.id) === at ? 0 : -1" @at="at = nth(d.device.id)" /></li>
          </ul>
        </div>
      </div>
      <section v-if="spare.length" class="sheet stack-s" aria-labelledby="spare"><h2 id="spare">Links not in use</h2>
        <ul class="plain"><li v-for="l in spare" :key="l.id"><router-link :to="`/households/${code}/records/link/${l.id}`">{{ nameOf(l.from) }} to {{ nameOf(l.to) }}</router-link> <span class="small quiet">{{ l.says }}</span></li></ul></section>
    </template>
  </div>
</template>

<style scoped>
.legend { gap: 6px 18px; }
.legend svg { flex: none; }
.plane { position: relative; }
.plane.wide { width: min(1030px, 100%); }
.lines { position: absolute; inset: 0; pointer-events: none; z-index: 1; color: rgb(var(--v-theme-on-surface)); }
.link { stroke: rgba(var(--v-theme-on-surface), .62); }
.link.blocker, .link.overloaded { stroke: rgb(var(--v-theme-failed)); }
.link.warning, .link.tight { stroke: rgb(var(--v-theme-marginal)); }
.link.spare { opacity: .55; }
.thread { stroke: rgb(var(--v-theme-primary)); opacity: .35; }
.thread.narrow { stroke: rgb(var(--v-theme-failed)); stroke-dasharray: 3 4; opacity: .6; }
.last { order: 1; }
.pickflow { display: flex; gap: 12px; align-items: center; flex-wrap: wrap; }
.pickflow > :first-child { max-width: 340px; flex: 1 1 240px; }
.floors { display: grid; gap: 0 56px; padding: 0 56px; }
.floor { border-top: 1px solid rgb(var(--v-theme-line)); padding: 8px 0 22px; min-width: 0; }
.floor h2 { padding-bottom: 22px; }
.rooms { display: grid; gap: 46px 56px; }
.room { min-width: 0; display: grid; gap: 6px; align-content: start; }
h3 { font-weight: 600; }
/* The drawing keeps its size, in which its lines were laid, and is printed smaller: one upright sheet holds most homes. */
@media print { .plane.wide { width: 1030px; zoom: .68; } }
</style>
