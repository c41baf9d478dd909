<script setup lang="ts">
/** Under the arm view: play, the slider over the lift, what is shown of the mechanism. */
import { t } from '../../kit/words'
import ChoiceRow from '../../kit/ChoiceRow.vue'
import { length } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import { VIEWS, type View } from './views'
import type { Shown } from './useShown'

const props = defineProps<{ shown: Shown }>()
const view = defineModel<View>({ required: true })
const { unit } = usePrefs()
const { read, shareRead, playing, play, stop } = props.shown
</script>

<template>
  <div class="move">
    <button type="button" class="plain" :aria-pressed="playing" @click="play">
      {{ playing ? t('Stop') : t('Play') }}
    </button>
    <input
      type="range"
      min="0"
      max="1"
      step="0.005"
      :value="shareRead"
      :aria-label="t('Lift')"
      @input="stop(Number(($event.target as HTMLInputElement).value))"
    />
    <output>{{ length(read?.valve ?? 0, unit) }}</output>
    <ChoiceRow v-model="view" quiet :label="t('View')" :options="VIEWS" />
  </div>
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
  .move :deep(.choices) {
    grid-column: 1 / -1;
  }
}
</style>
