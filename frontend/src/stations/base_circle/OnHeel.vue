<script setup lang="ts">
/** Which valves stand on their heel at this crank angle, and by what margin. */
import { t } from '../../kit/words'
import { computed } from 'vue'

const props = defineProps<{
  standing: { name: string; kind: 'intake' | 'exhaust'; margin: number }[]
  guard: number
  crank: number
}>()
const emit = defineEmits<{ measure: [name: string] }>()

const on = computed(() =>
  props.standing.filter((s) => s.margin >= 0).sort((a, b) => b.margin - a.margin),
)
const off = computed(() => props.standing.length - on.value.length)
const most = computed(() => Math.max(...on.value.map((s) => s.margin), 1))
</script>

<template>
  <h2>{{ t('On the heel at {crank}°', { crank }) }}</h2>
  <p v-if="!standing.length" class="quiet">{{ t('Not known without a cam card.') }}</p>
  <ul v-else>
    <li v-for="s in on" :key="s.name" :class="[s.kind, { near: s.margin < guard }]">
      <button type="button" @click="emit('measure', s.name)">
        <span class="unseen">{{ t('Measure') }}</span>
        <span class="name">{{ s.name }}</span>
        <span class="bar"><i :style="{ width: `${(s.margin / most) * 100}%` }" /></span>
        <span class="margin"
          >{{ Math.round(s.margin) }}°<template v-if="s.margin < guard"> !</template></span
        >
      </button>
    </li>
  </ul>
  <p v-if="off" class="quiet">{{ t('{off} off the heel', { off }) }}</p>
</template>

<style scoped>
h2 {
  margin: 8px 0 4px;
  font-size: 16px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
button {
  display: grid;
  grid-template-columns: 34px 1fr 48px;
  gap: 8px;
  align-items: center;
  width: 100%;
  min-height: 26px;
  padding: 0;
  border: 0;
  background: none;
  font: inherit;
  font-variant-numeric: tabular-nums;
  color: var(--ink);
  cursor: pointer;
}
.name {
  font-weight: 600;
  text-align: left;
}
.bar {
  height: 9px;
  background: var(--rule);
}
.bar i {
  display: block;
  height: 100%;
  background: var(--hue);
}
.intake {
  --hue: var(--intake);
}
.exhaust {
  --hue: var(--exhaust);
}
.margin {
  text-align: right;
}
.near .margin {
  color: var(--alarm-ink);
  font-weight: 600;
}
.quiet {
  margin: 4px 0;
  font-size: 14px;
  color: var(--quiet);
}
@media (pointer: coarse) {
  button {
    min-height: 44px;
  }
}
@container station (max-width: 1060px) {
  ul {
    columns: 2;
  }
}
</style>
