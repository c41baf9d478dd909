<script setup lang="ts">
/** What, why, and what to do next, in that order. */
import { computed } from 'vue'
import type { Verdict } from '../api/client'
import { fill } from './format'
import { usePrefs } from './prefs'

const props = defineProps<{ verdict: Verdict }>()
const { unit } = usePrefs()
const said = (text: string) => fill(text, props.verdict.lengths, props.verdict.smalls, unit.value)
const alarm = computed(() => ['conflict', 'outside'].includes(props.verdict.state))
</script>

<template>
  <div class="verdict" :class="verdict.state" :role="alarm ? 'alert' : 'status'">
    <h2>{{ said(verdict.what) }}</h2>
    <p class="why">{{ said(verdict.why) }}</p>
    <p v-if="verdict.then" class="then">{{ said(verdict.then) }}</p>
  </div>
</template>

<style scoped>
.verdict {
  border-left: 5px solid var(--rule);
  padding: 2px 0 2px 14px;
}
.settled {
  border-left-color: var(--good);
}
.closing {
  border-left-color: var(--accent);
}
.conflict,
.outside {
  border-left: 5px double var(--alarm);
}
h2 {
  margin: 0;
  font-size: 23px;
  line-height: 1.15;
}
p {
  margin: 4px 0 0;
  line-height: 1.35;
}
.why {
  color: var(--quiet);
}
.then {
  font-weight: 600;
}
</style>
