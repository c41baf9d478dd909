<script setup lang="ts">
/** The step of the tour that is at hand, over the station it is about. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Build } from '../../api/client'
import { TOUR, useTour } from './tour'

const props = defineProps<{ build?: Build | undefined }>()
const { at, step, go, leave } = useTour()
const route = useRoute()
const router = useRouter()
const elsewhere = computed(
  () =>
    props.build &&
    step.value &&
    step.value.station !== 'ending' &&
    route.name !== step.value.station,
)

function open() {
  if (!props.build || !step.value) return
  const valveId = props.build.valves[0]?.id ?? ''
  const params =
    step.value.station === 'zero_lash'
      ? { buildId: props.build.id, valveId }
      : { buildId: props.build.id }
  void router.push({ name: step.value.station, params })
}
function next(by: number) {
  go(by)
  if (step.value?.station !== 'ending') open()
}
</script>

<template>
  <section v-if="step" class="tour" :aria-label="t('Tour')">
    <span class="count">{{ t('{step} of {TOUR}', { step: at.step + 1, TOUR: TOUR.length }) }}</span>
    <p>
      <strong>{{ step.title }}.</strong> {{ step.words }}
    </p>
    <button v-if="elsewhere" type="button" class="plain" @click="open">{{ t('Go there') }}</button>
    <button v-if="at.step && build" type="button" class="plain" @click="next(-1)">
      {{ t('Back') }}
    </button>
    <button
      v-if="at.step < TOUR.length - 1 && build"
      type="button"
      class="plain strong"
      @click="next(1)"
    >
      {{ t('Next') }}
    </button>
    <button type="button" class="plain" @click="leave">
      {{ at.step < TOUR.length - 1 ? t('Leave the tour') : t('Done') }}
    </button>
  </section>
</template>

<style scoped>
.tour {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  margin: 0 0 8px;
  padding: 6px 12px;
  background: var(--paper);
  border: 1px solid var(--rule);
  border-left: 6px solid var(--accent);
}
p {
  flex: 1 1 320px;
  margin: 0;
  line-height: 1.3;
}
.count {
  color: var(--quiet);
}
</style>
