<script setup lang="ts">
/** A plan's stops in order: what to look for, which valves to measure, how far to turn on. */
import { t } from '../../kit/words'
import { nextTick, useTemplateRef, watch } from 'vue'
import type { StopPlan } from '../../api/client'
import { isDone } from './useBaseCircle'

const props = defineProps<{ plan: StopPlan; measured: string[]; current: number }>()
const emit = defineEmits<{ go: [index: number]; measure: [name: string] }>()

const list = useTemplateRef<HTMLElement>('list')
/** Scroll the list, not the page, until the stop is in view. */
function show(at: number) {
  const box = list.value?.getBoundingClientRect()
  const stop = list.value?.children[at]?.getBoundingClientRect()
  if (!list.value || !box || !stop) return
  if (stop.top < box.top) list.value.scrollTop -= box.top - stop.top
  if (stop.bottom > box.bottom) list.value.scrollTop += stop.bottom - box.bottom
}
watch(
  () => props.current,
  async (at) => {
    await nextTick()
    show(at)
  },
  { immediate: true },
)
const kindOf = (name: string) => (name.endsWith('I') ? 'intake' : 'exhaust')
</script>

<template>
  <ol ref="list" class="stops" :aria-label="t('Stops')">
    <li
      v-for="(stop, i) in plan.stops"
      :key="i"
      :class="{ current: i === current, done: isDone(stop, measured) }"
    >
      <button
        type="button"
        class="place"
        :aria-current="i === current ? 'step' : undefined"
        @click="emit('go', i)"
      >
        <span class="number">{{ isDone(stop, measured) ? '✓' : i + 1 }}</span>
        <span class="where">
          <b v-if="stop.crank_deg !== null">{{ Math.round(stop.crank_deg * 10) / 10 }}°</b>
          <b v-else>{{ t('by hand') }}</b>
          <span v-if="stop.turn_deg !== null" class="turn">{{
            t('turn on {turn}°', { turn: Math.round(stop.turn_deg) })
          }}</span>
        </span>
        <span class="look">{{ stop.look_for }}</span>
      </button>
      <div class="valves">
        <button
          v-for="v in stop.valves"
          :key="v.name"
          type="button"
          class="valve"
          :class="[
            kindOf(v.name),
            { measured: measured.includes(v.name), off: (v.margin_deg ?? 0) < 0 },
          ]"
          @click="emit('measure', v.name)"
        >
          <span class="unseen">{{ `${t('Measure')} ` }}</span>{{ v.name
          }}<small v-if="v.margin_deg !== null">{{ Math.round(v.margin_deg) }}°</small>
          <sup v-if="measured.includes(v.name)"
            >✓<span class="unseen">{{ ` ${t('measured')}` }}</span></sup
          >
        </button>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.stops {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 470px;
  overflow: auto;
  border-top: 1px solid var(--rule);
}
li {
  border-bottom: 1px solid var(--rule);
  border-left: 5px solid transparent;
  padding: 4px 6px 6px;
}
.current {
  border-left-color: var(--accent);
  background: var(--paper);
}
.place {
  display: grid;
  grid-template-columns: 30px 84px 1fr;
  gap: 10px;
  align-items: center;
  width: 100%;
  min-height: 44px;
  padding: 2px 0;
  border: 0;
  background: none;
  font: inherit;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
}
.number {
  width: 28px;
  height: 28px;
  line-height: 26px;
  text-align: center;
  font-weight: 600;
  border: 1.5px solid var(--rule);
  border-radius: 50%;
  background: var(--paper);
}
.done .number {
  background: var(--good);
  color: var(--paper);
  border-color: var(--good);
}
.where {
  display: flex;
  flex-direction: column;
  font-variant-numeric: tabular-nums;
  line-height: 1.15;
}
.where b {
  font-size: 19px;
}
.turn {
  font-size: 14px;
  color: var(--quiet);
}
.look {
  line-height: 1.25;
}
.valves {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  padding-left: 40px;
}
.valve {
  position: relative;
  min-width: 52px;
  height: 44px;
  padding: 0 6px;
  font: inherit;
  font-weight: 600;
  line-height: 1;
  color: var(--ink);
  background: var(--paper);
  border: 2px solid var(--hue);
  cursor: pointer;
}
.intake {
  --hue: var(--intake);
  border-radius: 22px;
}
.exhaust {
  --hue: var(--exhaust);
  border-radius: 3px;
}
.valve small {
  display: block;
  font-weight: 400;
  font-size: 13px;
  color: var(--quiet);
}
.off {
  border-style: double;
  border-color: var(--alarm);
}
.off small {
  color: var(--alarm-ink);
  font-weight: 600;
}
sup {
  position: absolute;
  top: -6px;
  right: -5px;
  width: 17px;
  height: 17px;
  line-height: 17px;
  font-size: 12px;
  border-radius: 9px;
  color: var(--paper);
  background: var(--ink);
}
</style>
