<script setup lang="ts">
/** Asked where a reading is doubted and the lifter's state would tell why: kept for the build. */
import { t } from '../../kit/words'
import type { Build, FinalFigures } from '../../api/client'
import ProblemNote from '../../kit/ProblemNote.vue'
import { LIFTERS } from '../setup/lifters'
import { useKeeper } from '../useKeeper'

const props = defineProps<{ build: Build }>()
const keeper = useKeeper(() => props.build.id)
const BLANK: FinalFigures = { measured_with: '', lifter: null, changes: {} }
const say = (lifter: FinalFigures['lifter']) =>
  keeper.keep({ final: (build) => ({ ...(build.final ?? BLANK), lifter }) })
</script>

<template>
  <div class="asked" role="group" :aria-label="t('Lifter while measuring')">
    <span>{{ t('Which lifter was in? It tells these apart.') }}</span>
    <button v-for="l in LIFTERS" :key="l.value" type="button" class="plain" @click="say(l.value)">
      {{ l.words }}
    </button>
    <ProblemNote :problem="keeper.refusalOf('final')" />
  </div>
</template>

<style scoped>
.asked {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  padding-top: 6px;
  border-top: 1px solid var(--rule);
}
.asked span {
  flex: 1 1 100%;
}
</style>
