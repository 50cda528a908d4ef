<script setup lang="ts">
/** A status, severity or state by shape and word; colour only helps. */
defineProps<{ state: string; word?: string; quiet?: boolean }>()

const colours: Record<string, string> = {
  proven: 'proven', marginal: 'marginal', failed: 'failed', stale: 'stale', untried: 'untried', waived: 'waived', 'in-doubt': 'doubt', 'not-served': 'failed', unproven: 'untried',
  blocker: 'failed', warning: 'marginal', advice: 'primary', pass: 'proven', fail: 'failed', impossible: 'untried',
  open: 'failed', 'in-hand': 'primary', waiting: 'stale', remedied: 'marginal', closed: 'proven',
  drafted: 'untried', offered: 'primary', accepted: 'proven', returned: 'marginal', outdated: 'stale',
  plays: 'proven', 'as-is': 'proven', converted: 'primary', repackaged: 'primary', 'sound-converted': 'primary', 'picture-converted': 'primary', partly: 'marginal', silent: 'marginal', none: 'failed', unplayable: 'failed', 'not-known': 'untried',
  'room-left': 'proven', tight: 'marginal', overloaded: 'failed',
  'as-recorded': 'proven', changed: 'marginal', new: 'primary', unsure: 'waived', 'not-seen': 'stale',
}
const shapes: Record<string, string> = {
  proven: 'disc', pass: 'disc', closed: 'disc', accepted: 'disc', marginal: 'half', remedied: 'half', returned: 'half',
  failed: 'cross', fail: 'cross', open: 'cross', stale: 'broken', waiting: 'broken', outdated: 'broken',
  untried: 'ring', drafted: 'ring', impossible: 'dash', waived: 'square', 'in-doubt': 'doubt', 'not-served': 'cross', unproven: 'ring', blocker: 'bar', warning: 'wedge', advice: 'corner', 'in-hand': 'arrow', offered: 'arrow',
  plays: 'disc', 'as-is': 'disc', converted: 'arrow', repackaged: 'arrow', 'sound-converted': 'arrow', 'picture-converted': 'arrow', partly: 'wedge', silent: 'wedge', none: 'cross', unplayable: 'cross', 'not-known': 'ring',
  'room-left': 'disc', tight: 'wedge', overloaded: 'cross',
  'as-recorded': 'disc', changed: 'half', new: 'corner', unsure: 'square', 'not-seen': 'broken',
}
</script>

<template>
  <span class="state" :class="{ bare: quiet }" :style="{ color: `rgb(var(--v-theme-${colours[state] ?? 'untried'}))` }">
    <svg viewBox="0 0 16 16" width="16" height="16" aria-hidden="true" fill="none" stroke="currentColor" stroke-width="2">
      <circle v-if="shapes[state] === 'disc'" cx="8" cy="8" r="6" fill="currentColor" />
      <template v-else-if="shapes[state] === 'half'"><circle cx="8" cy="8" r="6" /><path d="M8 2a6 6 0 0 1 0 12z" fill="currentColor" stroke="none" /></template>
      <path v-else-if="shapes[state] === 'cross'" d="M3 3l10 10M13 3L3 13" stroke-width="3" stroke-linecap="round" />
      <path v-else-if="shapes[state] === 'broken'" d="M13.2 5A6 6 0 0 0 3 5M2.8 11A6 6 0 0 0 13 11" stroke-linecap="round" />
      <template v-else-if="shapes[state] === 'doubt'"><path d="M4.5 5.5a3.5 3.5 0 1 1 5 3.2c-1 .5-1.5 1-1.5 2" stroke-linecap="round" /><circle cx="8" cy="14" r="1.2" fill="currentColor" stroke="none" /></template>
      <path v-else-if="shapes[state] === 'dash'" d="M2 8h12" stroke-width="3" />
      <rect v-else-if="shapes[state] === 'square'" x="3" y="3" width="10" height="10" />
      <template v-else-if="shapes[state] === 'bar'"><rect x="1.5" y="1.5" width="13" height="13" fill="currentColor" stroke="none" /><path d="M4 8h8" stroke="rgb(var(--v-theme-surface))" stroke-width="2.6" /></template>
      <path v-else-if="shapes[state] === 'wedge'" d="M8 2.5L14 13.5H2z" stroke-linejoin="round" />
      <path v-else-if="shapes[state] === 'corner'" d="M3 13V3h10" />
      <path v-else-if="shapes[state] === 'arrow'" d="M2.5 8h10M8.5 3.5L13 8l-4.5 4.5" stroke-linecap="round" stroke-linejoin="round" />
      <circle v-else cx="8" cy="8" r="6" />
    </svg>
    <span v-if="!quiet">{{ word ?? state.replaceAll('-', ' ') }}</span>
    <span v-else class="skip">{{ word ?? state }}</span>
  </span>
</template>

<style scoped>
.state { display: inline-flex; align-items: center; gap: 6px; font-weight: 600; white-space: nowrap; position: relative; vertical-align: bottom; }
.state.bare { vertical-align: -2px; }
.state svg { flex: none; }
</style>
