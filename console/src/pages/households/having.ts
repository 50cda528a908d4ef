import { computed } from 'vue'
import { me } from '../../me'

/** What homes can have, as the list of households is narrowed by it. */
export const having = computed(() => me.session?.filters ?? [])
