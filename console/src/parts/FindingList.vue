<script setup lang="ts">
import type { Schemas } from '../api/client'
import StateMark from './StateMark.vue'

/** Findings at their subjects, each with its one remedy. */
defineProps<{ findings: Schemas['Finding'][]; code: string }>()
</script>

<template>
  <ul class="plain ruled">
    <li v-for="(f, n) in findings" :key="n" class="stack-s">
      <div><StateMark :state="f.severity" /> <span>{{ f.sentence }}</span></div>
      <div class="small"><span class="quiet">Remedy:</span> {{ f.remedy }}
        <router-link v-if="f.subjects[0]" :to="`/households/${code}/records/${f.subjects[0].kind}/${f.subjects[0].id}`">Open {{ f.subjects[0].label }}</router-link>
      </div>
    </li>
  </ul>
</template>
