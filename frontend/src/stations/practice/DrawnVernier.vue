<script setup lang="ts">
/** A vernier caliper under a loupe: the rule above, the slide's twenty-five lines below. */
import { t } from '../../kit/words'
import { computed, ref } from 'vue'

const props = defineProps<{ inches: number }>()

/** The rule is cut in fortieths; twenty-five lines of the slide stand over twenty-four of them. */
const FINE = 0.025
const LINE = (24 * FINE) / 25
const LINES = 25
const WIDE = 0.13

/** The line of the slide that the loupe stands over. */
const over = ref(0)
const middle = computed(() => props.inches + over.value * LINE)
const rule = computed(() => {
  const first = Math.ceil((middle.value - WIDE / 2) / FINE)
  const last = Math.floor((middle.value + WIDE / 2) / FINE)
  return Array.from({ length: last - first + 1 }, (_, i) => {
    const n = first + i
    const whole = n % 40 === 0
    return {
      n,
      x: n * FINE,
      long: n % 4 === 0,
      label: n % 4 ? '' : whole ? String(n / 40) : String((n / 4) % 10),
      whole,
    }
  })
})
const slide = computed(() =>
  Array.from({ length: LINES + 1 }, (_, n) => ({ n, x: props.inches + n * LINE })).filter(
    (line) => Math.abs(line.x - middle.value) <= WIDE / 2,
  ),
)
const SCALE = 1600
const at = (x: number) => (x - middle.value) * SCALE
</script>

<template>
  <span class="vernier">
    <svg
      viewBox="-105 -34 210 68"
      role="img"
      :aria-label="t('Vernier, the loupe over line {over}', { over })"
    >
      <rect class="rule" x="-105" y="-34" width="210" height="34" />
      <rect class="slide" x="-105" y="0" width="210" height="34" />
      <g v-for="line in rule" :key="`r${line.n}`">
        <line :x1="at(line.x)" y1="0" :x2="at(line.x)" :y2="line.long ? -19 : -12" />
        <text
          v-if="line.label"
          :class="{ whole: line.whole }"
          :x="at(line.x)"
          y="-22"
          text-anchor="middle"
        >
          {{ line.label }}
        </text>
      </g>
      <g v-for="line in slide" :key="`s${line.n}`">
        <line :x1="at(line.x)" y1="0" :x2="at(line.x)" :y2="line.n % 5 ? 12 : 19" />
        <text v-if="line.n % 5 === 0" :x="at(line.x)" y="30" text-anchor="middle">
          {{ line.n }}
        </text>
      </g>
    </svg>
    <input
      v-model.number="over"
      type="range"
      min="0"
      max="25"
      :aria-label="t('Loupe along the slide')"
    />
  </span>
</template>

<style scoped>
.vernier {
  display: grid;
  flex: none;
  width: 230px;
}
svg {
  width: 230px;
  height: 75px;
  border: 1px solid var(--ink);
}
.rule {
  fill: #dfe4e6;
}
.slide {
  fill: #c6ced2;
}
line {
  stroke: #1c2226;
  stroke-width: 1;
}
text {
  font-size: 11px;
  fill: #1c2226;
}
.whole {
  font-size: 14px;
  font-weight: 700;
}
input {
  width: 100%;
  height: 44px;
  margin: 0;
  accent-color: var(--accent);
}
</style>
