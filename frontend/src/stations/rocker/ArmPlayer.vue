<script setup lang="ts">
/** The mechanism to scale, moved by hand or playing. */
import { t } from '../../kit/words'
import { ref } from 'vue'
import type { Motion } from '../../api/client'
import ArmView from '../../drawings/ArmView.vue'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { length } from '../../kit/format'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import type { Shown } from './useShown'

const props = defineProps<{ batch: Motion; shown: Shown }>()
const { unit } = usePrefs()
const { frame, closed, share, lift, sweep, playing, play, stop, toHalf } = props.shown

const VIEWS = [
  { value: 'rocker', words: t('Rocker') },
  { value: 'tip', words: t('Tip') },
  { value: 'whole', words: t('Whole') },
] as const satisfies { value: string; words: string }[]
const view = ref<(typeof VIEWS)[number]['value']>('rocker')
function nextView() {
  const at = VIEWS.findIndex((v) => v.value === view.value)
  view.value = VIEWS[(at + 1) % VIEWS.length]?.value ?? 'rocker'
}

useKeys([
  {
    key: 'arrowright',
    shown: '→',
    does: t('Open the valve a little'),
    run: () => stop(share.value + 0.02),
  },
  {
    key: 'arrowleft',
    shown: '←',
    does: t('Close it a little'),
    run: () => stop(share.value - 0.02),
  },
  { key: ' ', shown: t('Space'), does: t('Play the lift'), run: play },
  { key: 'h', does: t('Half lift'), run: toHalf },
  { key: 'z', does: t('Rocker, tip, whole'), run: nextView },
])
</script>

<template>
  <section v-if="frame && closed" :aria-label="t('Arm view')">
    <ArmView
      :batch="batch"
      :frame="frame"
      :closed="closed"
      :view="view"
      :half="lift / 2"
      :sweep="sweep"
      :unit="unit"
      @lift="stop"
    />
    <div class="move">
      <button type="button" class="plain" :aria-pressed="playing" @click="play">
        {{ playing ? t('Stop') : t('Play') }}
      </button>
      <input
        type="range"
        min="0"
        max="1"
        step="0.005"
        :value="share"
        :aria-label="t('Lift')"
        @input="stop(Number(($event.target as HTMLInputElement).value))"
      />
      <output>{{ length(frame.valve, unit) }}</output>
      <ChoiceRow v-model="view" quiet :label="t('View')" :options="VIEWS" />
    </div>
  </section>
</template>

<style scoped>
.move {
  display: grid;
  grid-template-columns: auto 1fr 84px auto;
  gap: 10px;
  align-items: center;
  padding-top: 6px;
}
.move input {
  width: 100%;
  min-height: 44px;
  accent-color: var(--accent);
}
.move output {
  font-weight: 600;
  font-variant-numeric: tabular-nums;
}
.move :deep(.choices) {
  flex-wrap: nowrap;
  gap: 4px;
}
.move :deep(.choices .plain) {
  padding: 0 8px;
}
@container station (max-width: 700px) {
  .move {
    grid-template-columns: auto 1fr 84px;
  }
}
</style>
