<script setup lang="ts">
/** What the final engine has otherwise than it was measured with: carried into every result. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import type { Build, FinalFigures } from '../../api/client'
import FigureEntry from '../../kit/FigureEntry.vue'
import ProblemNote from '../../kit/ProblemNote.vue'
import PickOne from '../../kit/PickOne.vue'
import type { Keeper } from '../useKeeper'
import ChangesTable from './ChangesTable.vue'
import { LIFTERS } from './lifters'

const props = defineProps<{ build: Build; keeper: Keeper }>()
const of = (build: Build): FinalFigures =>
  build.final ?? { measured_with: '', lifter: null, changes: {} }
const final = computed(() => of(props.build))
const keep = (change: (final: FinalFigures) => Partial<FinalFigures>) =>
  props.keeper.keep({ final: (build) => ({ ...of(build), ...change(of(build)) }) })
</script>

<template>
  <section id="final">
    <h2>{{ t('Measured otherwise than it will run') }}</h2>
    <p class="quiet">
      {{
        t(
          'Another gasket, a head or deck still to be cut, stems still to be ground: entered here, the difference is carried into every rod.',
        )
      }}
    </p>
    <label class="quiet" for="measured-lifter">{{ t('Lifter while measuring') }}</label>
    <PickOne
      id="measured-lifter"
      :label="t('Lifter while measuring')"
      :options="LIFTERS"
      :none="t('not said')"
      :model-value="final.lifter ?? null"
      @update:model-value="keep(() => ({ lifter: $event || null }))"
    />
    <FigureEntry
      text
      :label="t('Measured with (gasket, springs, torque)')"
      :model-value="final.measured_with"
      @keep="keep(() => ({ measured_with: $event.trim().slice(0, 200) }))"
    />
    <ChangesTable
      :label="t('Final engine')"
      :prefix="`${t('Final engine')}: `"
      :changes="final.changes"
      @keep="(change) => keep(({ changes }) => ({ changes: change(changes) }))"
    />
    <ProblemNote :problem="keeper.refusalOf('final')" />
  </section>
</template>

<style scoped src="./section.css"></style>
