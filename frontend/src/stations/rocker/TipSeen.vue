<script setup lang="ts">
/** The tip with what to expect and what was seen. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import type { Motion, Rocker } from '../../api/client'
import TipView from '../../drawings/TipView.vue'
import { usePrefs } from '../../kit/prefs'
import type { Shown } from './useShown'

const props = defineProps<{
  arm: Rocker
  batch: Motion
  shown: Shown
  edges: { low: number | null; high: number | null }
}>()
const emit = defineEmits<{ edge: [side: 'low' | 'high', inches: number] }>()
const { unit } = usePrefs()
const { read, band, otherBand } = props.shown
const CLEAR = 0.04

const seen = computed(() => {
  const counted = props.arm.marks.filter((m) => !m.struck && m.inboard_in !== null)
  return counted.slice(-3).map((m, i, all) => ({
    number: m.number,
    low: m.inboard_in ?? 0,
    high: m.outboard_in ?? m.inboard_in ?? 0,
    latest: i === all.length - 1,
  }))
})
</script>

<template>
  <section v-if="read" class="middle" :aria-label="t('Tip')">
    <TipView
      :unit="unit"
      :stem="batch.stem_in"
      :contact="read.contact"
      :band="band"
      :other="otherBand"
      :marks="seen"
      :edges="edges"
      :clear="CLEAR"
      @edge="(side, inches) => emit('edge', side, inches)"
    />
    <p class="key">
      <i class="expect" /> {{ t('to expect') }} <i class="own" /> {{ t('seen') }}
      <i class="limit" /> {{ t('where it may lie') }}
    </p>
  </section>
</template>

<style scoped>
.middle {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.middle :deep(.tip) {
  max-width: 236px;
  margin: 0 auto;
}
.key {
  display: flex;
  gap: 6px 8px;
  justify-content: center;
  align-items: center;
  margin: 0;
  font-size: 13px;
  color: var(--quiet);
}
.key i {
  width: 16px;
  height: 12px;
  border: 1px solid var(--ink);
}
.key .expect {
  background: repeating-linear-gradient(125deg, #c33d12 0 2px, #f3d7c8 2px 5px);
}
.key .own {
  background: #7a8aa0;
}
.key .limit {
  border-style: dashed;
}
</style>
