<script setup lang="ts">
/** One word of the trade drawn, as far as a line or two can. */
import type { Term } from './glossary'

defineProps<{ term: Term }>()
const ROD = ['theoretical', 'measured', 'gauge']
</script>

<template>
  <svg viewBox="0 0 96 64" class="drawn" aria-hidden="true">
    <template v-if="term === 'heel'">
      <path class="metal" d="M30 40 a18 18 0 1 1 36 0 q-4 18 -18 22 q-14 -4 -18 -22 z" />
      <rect class="metal" x="34" y="4" width="28" height="18" />
      <path class="hot" d="M33 30 a18 18 0 0 1 30 0" />
    </template>
    <template v-else-if="term === 'zero lash' || term === 'preload'">
      <path class="wall" d="M30 14 v44 h36 v-44" />
      <rect
        class="metal"
        x="34"
        :y="term === 'preload' ? 32 : 22"
        width="28"
        :height="term === 'preload' ? 22 : 32"
      />
      <path class="hot" d="M30 20 h7 M59 20 h7" />
      <path class="rod" :d="`M48 ${term === 'preload' ? 26 : 16} V0`" />
      <circle class="ball" cx="48" :cy="term === 'preload' ? 27 : 17" r="6" />
    </template>
    <template v-else-if="term === 'r0'">
      <path class="wall" d="M14 26 L48 20 L82 26" />
      <circle class="metal" cx="82" cy="26" r="8" />
      <rect class="metal" x="76" y="42" width="12" height="20" />
      <path class="rod" d="M14 28 V62" />
      <path class="hot" d="M90 34 v8 M14 40 l-5 8 M14 40 l5 8" />
    </template>
    <template v-else-if="term === 'k = 2'">
      <path class="wall" d="M4 54 Q26 54 36 26 Q48 -6 60 26 Q70 54 92 54" />
      <path class="hot" d="M26 58 H70 M26 53 v10 M70 53 v10" />
    </template>
    <template v-else-if="term === 'worst miss' || term === 'inferred'">
      <path class="wall" d="M8 32 H88" />
      <circle
        v-for="x in [16, 32, 48, 64]"
        :key="x"
        class="ball"
        :cx="x"
        :cy="30 + (x % 3) * 3"
        r="4"
      />
      <template v-if="term === 'worst miss'">
        <circle class="ball" cx="80" cy="54" r="4" />
        <path class="hot" d="M80 34 V50" />
      </template>
      <circle v-else class="hollow" cx="80" cy="32" r="6" />
    </template>
    <template v-else-if="ROD.includes(term)">
      <circle class="metal" cx="16" cy="26" r="10" />
      <circle class="metal" cx="80" cy="26" r="10" />
      <path class="rod" d="M24 26 H72" />
      <path v-if="term === 'measured'" class="page" d="M4 18 h4 v16 h-4 z M88 18 h4 v16 h-4 z" />
      <path
        class="hot"
        :d="
          term === 'theoretical'
            ? 'M6 48 H90 M6 42 v12 M90 42 v12'
            : term === 'measured'
              ? 'M8 48 H88 M8 42 v12 M88 42 v12'
              : 'M10 48 H86 M10 14 v40 M86 14 v40'
        "
      />
    </template>
    <template v-else-if="term === 'school'">
      <circle class="wall" cx="48" cy="32" r="24" />
      <path class="hot" d="M48 32 V6 M48 32 L70 44 M48 32 L26 44" />
    </template>
    <template v-else-if="term === 'angle'">
      <rect class="metal" x="66" y="30" width="10" height="32" />
      <path class="wall" d="M8 24 H90" stroke-dasharray="4 4" />
      <path class="rod" d="M8 24 L84 12" />
      <path class="hot" d="M58 24 a50 50 0 0 0 -1 -8" />
    </template>
    <template v-else>
      <circle class="metal" cx="48" cy="32" r="28" />
      <rect class="ball" x="36" y="12" width="16" height="40" />
      <path v-if="term === 'closed end'" class="hot" d="M52 8 V56" />
      <path v-else class="hot" d="M48 58 V6 M48 58 H36" />
    </template>
  </svg>
</template>

<style scoped>
.drawn {
  width: 96px;
  height: 64px;
  background: var(--layout-blue);
}
.metal {
  fill: var(--steel);
}
.wall,
.rod,
.hot,
.hollow {
  fill: none;
  stroke: var(--scribe);
  stroke-width: 3;
}
.rod {
  stroke: #9aa6ad;
  stroke-width: 6;
}
.hot {
  stroke: var(--accent-on-blue);
}
.ball {
  fill: #9aa6ad;
}
.hollow {
  stroke-dasharray: 3 3;
}
.page {
  fill: var(--layout-blue);
}
</style>
