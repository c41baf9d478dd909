<script setup lang="ts">
/**
 * The small instrument of a way of measuring: a caliper over the rod, an indicator's dial, or
 * feelers between rocker and valve tip. The dial is true; caliper and feelers are sketches.
 */
import { decimal, t } from '../kit/words'
import { computed } from 'vue'
import { length, small, type Unit } from '../kit/format'

const props = defineProps<{
  unit: Unit
  method: 'extend' | 'indicator' | 'gap_short' | 'gap_bottomed'
  /** What it reads, inches; null before anything is typed. */
  value: number | null
}>()

const shown = computed(() => {
  if (props.value === null) return '–'
  return props.method === 'extend'
    ? length(props.value, props.unit)
    : small(props.value, props.unit)
})
/** One turn of the dial is 0.100 in, or 1 mm. */
const perTurn = computed(() => (props.unit === 'in' ? 0.1 : 1 / 25.4))
const needle = computed(() => ((((props.value ?? 0) / perTurn.value) % 1) * 360).toFixed(1))
const leaf = computed(() => Math.min(Math.max((props.value ?? 0) * 220, 1.5), 22))
</script>

<template>
  <svg viewBox="0 0 160 150" class="gauge" role="img" :aria-label="t('Reads {shown}', { shown })">
    <template v-if="method === 'indicator'">
      <circle cx="80" cy="70" r="66" class="rim" />
      <line
        v-for="k in 50"
        :key="k"
        x1="80"
        x2="80"
        y1="8"
        :y2="k % 5 === 0 ? 20 : 14"
        :transform="`rotate(${k * 7.2} 80 70)`"
        class="mark"
      />
      <text
        v-for="k in 10"
        :key="`n${k}`"
        :x="80 + 46 * Math.sin((k * Math.PI) / 5)"
        :y="75 - 46 * Math.cos((k * Math.PI) / 5)"
        class="figure"
      >
        {{ unit === 'in' ? (k % 10) * 10 : decimal(((k % 10) / 10).toFixed(1)) }}
      </text>
      <path d="M77 78 L79 14 L81 14 L83 78 Z" class="hand" :transform="`rotate(${needle} 80 70)`" />
      <circle cx="80" cy="70" r="7" class="hub" />
      <text x="80" y="102" class="small">{{ unit === 'in' ? '0.001 in' : '0.01 mm' }}</text>
    </template>
    <template v-else-if="method === 'extend'">
      <path class="steel" d="M8 46 H152 V60 H30 V108 L22 116 L16 108 V60 H8 Z" />
      <path class="steel" d="M112 36 H146 V108 L140 116 L132 108 V66 H112 Z" />
      <line
        v-for="k in 15"
        :key="k"
        class="mark"
        :x1="30 + k * 5"
        :x2="30 + k * 5"
        y1="46"
        :y2="k % 5 === 0 ? 55 : 51"
      />
      <rect class="tube" x="38" y="82" width="86" height="12" rx="2" />
      <circle class="ball" cx="36" cy="88" r="7" />
      <circle class="ball" cx="126" cy="88" r="7" />
      <line class="joint" x1="74" x2="74" y1="80" y2="96" />
    </template>
    <template v-else>
      <path
        class="steel"
        d="M6 34 Q30 10 76 26 L132 44 Q148 50 142 62 Q130 72 112 60 L70 50 Q30 60 6 34 Z"
      />
      <circle class="hole" cx="72" cy="39" r="8" />
      <rect class="leaf" x="108" y="66" width="48" :height="leaf" />
      <g :transform="`translate(0 ${leaf})`">
        <rect class="stem" x="120" y="66" width="22" height="60" rx="2" />
      </g>
      <path class="tube" d="M16 46 L24 46 L28 108 L20 108 Z" />
      <g v-if="method === 'gap_bottomed'">
        <rect class="steel" x="8" y="104" width="34" height="34" />
        <rect class="tube" x="16" y="108" width="18" height="29" />
      </g>
      <g v-else>
        <rect class="steel" x="8" y="104" width="34" height="34" />
      </g>
    </template>
    <text x="80" y="146" class="reads">{{ shown }}</text>
  </svg>
</template>

<style scoped>
.gauge {
  width: 160px;
  flex: none;
}
.rim {
  fill: #fff;
  stroke: #1d2327;
  stroke-width: 4;
}
.mark {
  stroke: #1d2327;
  stroke-width: 1.2;
}
.figure,
.small,
.reads {
  text-anchor: middle;
  font-size: 12px;
  fill: #1d2327;
}
.small {
  font-size: 11px;
}
.hand {
  fill: var(--accent);
  stroke: #1d2327;
  stroke-width: 0.6;
}
.hub,
.hole {
  fill: #1d2327;
}
.steel {
  fill: var(--steel);
  stroke: #1d2327;
}
.tube {
  fill: #8fa1ad;
  stroke: #1d2327;
}
.ball {
  fill: #dfe6ea;
  stroke: #1d2327;
}
.joint {
  stroke: #1d2327;
  stroke-dasharray: 2 2;
}
.leaf {
  fill: var(--accent);
}
.stem {
  fill: #b9c4cb;
  stroke: #1d2327;
}
.reads {
  font-size: 17px;
  font-weight: 600;
  fill: var(--ink);
  font-variant-numeric: tabular-nums;
}
</style>
