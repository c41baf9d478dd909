<script setup lang="ts">
/** A reading that is not believable: what is off, the likely causes, the check that would tell. */
import type { Suspicion } from '../api/client'
import { fill } from './format'
import { usePrefs } from './prefs'

defineProps<{ suspicion: Suspicion }>()
const { unit } = usePrefs()
</script>

<template>
  <div class="suspicion" role="alert">
    <p class="what">
      {{ fill(suspicion.sentence, {}, { off: Math.abs(suspicion.off_in) }, unit) }}
    </p>
    <ol>
      <li v-for="c in suspicion.causes" :key="c.cause">
        <span class="share">
          <i><b :style="{ width: `${c.share * 100}%` }" /></i>
          {{ Math.round(c.share * 100) }}%
        </span>
        <span class="cause"
          ><b>{{ c.what }}:</b> {{ fill(c.reason, {}, { by: c.by_in }, unit) }}.</span
        >
        <span class="check">{{ c.check }}</span>
      </li>
    </ol>
    <slot v-if="suspicion.asks_lifter" />
  </div>
</template>

<style scoped>
.what {
  margin: 0 0 4px;
  font-weight: 600;
  color: var(--alarm-ink);
}
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 44px 1fr;
  gap: 0 10px;
  padding: 4px 0;
  border-top: 1px solid var(--rule);
  line-height: 1.25;
}
.share {
  align-self: center;
  font-size: 14px;
  font-variant-numeric: tabular-nums;
}
.share i,
.share b {
  display: block;
  height: 8px;
  background: var(--rule);
}
.share b {
  background: var(--alarm);
}
.check {
  grid-column: 2;
  font-size: 15px;
}
.cause {
  color: var(--quiet);
}
.cause b {
  color: var(--ink);
}
</style>
