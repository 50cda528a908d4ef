<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { api, type Schemas } from '../api/client'
import { supposedSteps, supposing } from '../supposed'

/** What a change would do to what is proven, carried and played, told before it is stored. Nothing is shown while it would do nothing, or cannot be told. */
const props = defineProps<{ code: string; change?: Schemas['PreviewStep'] }>()
const preview = ref<Schemas['Preview']>()
const others = computed(() => [
  ...(preview.value?.load ?? []).map((c) => ({ about: `Load of ${c.what}`, before: c.before ?? 'not asked for', after: c.after ?? 'no longer asked for' })),
  ...(preview.value?.plays ?? []).map((c) => ({ about: c.what, before: c.before ?? 'no path leads there', after: c.after ?? 'no path would lead there' })),
])
let soon: ReturnType<typeof setTimeout> | undefined
let asked = 0

async function ask(change?: Schemas['PreviewStep']) {
  const mine = ++asked
  if (!change) { preview.value = undefined; return }
  try {
    const { data } = await api.POST('/api/v1/households/{code}/preview', { params: { path: { code: props.code } }, body: { changes: [...(supposing(props.code) ? supposedSteps.value : []), change] } })
    if (mine === asked) preview.value = data
  } catch {
    if (mine === asked) preview.value = undefined // without the office it cannot be told
  }
}
watch(() => JSON.stringify(props.change), () => { clearTimeout(soon); soon = setTimeout(() => void ask(props.change), 400) }, { immediate: true })
onBeforeUnmount(() => { clearTimeout(soon); asked++ })
</script>

<template>
  <div v-if="preview && (preview.sentence || others.length)" class="tell" role="status">
    <p v-if="preview.sentence">{{ preview.sentence }}</p>
    <ul v-if="others.length" class="plain small"><li v-for="o in others" :key="o.about">{{ o.about }}: {{ o.after }}, <span class="quiet">now {{ o.before }}</span></li></ul>
    <details v-if="preview.stale.length + preview.inDoubt.length">
      <summary>Which</summary>
      <ul class="plain small"><li v-for="t in [...preview.stale, ...preview.inDoubt]" :key="t.id">{{ t.title }}, {{ t.about.label }}<span v-if="t.sentence" class="quiet">: {{ t.sentence }}</span></li></ul>
    </details>
  </div>
</template>

<style scoped>
.tell { border-left: 4px solid rgb(var(--v-theme-doubt)); padding: 4px 0 4px 12px; }
summary { min-height: 44px; display: flex; align-items: center; gap: 8px; cursor: pointer; }
summary::before { content: '▸'; }
details[open] > summary::before { content: '▾'; }
</style>
