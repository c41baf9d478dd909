<script setup lang="ts">
/** The mechanism to scale, moved by hand or playing. */
import { t } from '../../kit/words'
import { ref } from 'vue'
import type { Motion } from '../../api/client'
import ArmView from '../../drawings/ArmView.vue'
import { useKeys } from '../../kit/keys'
import { usePrefs } from '../../kit/prefs'
import LiftBar from './LiftBar.vue'
import { VIEWS, type View } from './views'
import type { Shown } from './useShown'

const props = defineProps<{ batch: Motion; shown: Shown }>()
const { unit } = usePrefs()
const { frame, read, closed, share, lift, sweep, play, stop, toHalf } = props.shown

const view = ref<View>('rocker')
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
  <section v-if="frame && read && closed" :aria-label="t('Arm view')">
    <ArmView
      :batch="batch"
      :frame="frame"
      :read="read"
      :closed="closed"
      :view="view"
      :half="lift / 2"
      :sweep="sweep"
      :unit="unit"
      @lift="stop"
    />
    <LiftBar v-model="view" :shown="shown" />
  </section>
</template>
