<script setup lang="ts">
/** What both schools ask for, and where they differ; a setting can be taken to look at. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import type { Rocker, Correction } from '../../api/client'
import FigureButton from '../../kit/FigureButton.vue'
import { length, small, smallSpan, within, type Unit, degrees } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'

const props = defineProps<{ arm: Rocker }>()
const emit = defineEmits<{ show: [setting: number]; school: [school: Correction['school']] }>()
const { unit } = usePrefs()

const signed = (inches: number, u: Unit) =>
  `${inches >= 0 ? '+' : '−'}${small(Math.abs(inches), u)}`
/** A rod by its length, a shim by what it adds. */
const written = (setting: number | null, u: Unit) => {
  if (setting === null) return ''
  return props.arm.stud ? length(setting, u) : signed(setting, u)
}
const clash = computed(() => props.arm.conflict)
const side = (inches: number) => (inches > 0 ? 'outboard' : 'inboard')
</script>

<template>
  <div class="says">
    <div class="figures">
      <FigureButton
        :label="arm.error_in > 0 ? t('Fulcrum too low by') : t('Fulcrum too high by')"
        :value="`${small(Math.abs(arm.error_in), unit)} ${within(2 * arm.error_u_in, unit)}`"
        :explanation="arm.explanations.error"
      />
    </div>
    <div class="schools">
      <article
        v-for="c in arm.corrections"
        :key="c.school"
        :class="{ chosen: c.school === arm.figures.school, refused: c.refused }"
      >
        <button
          type="button"
          class="name"
          :aria-pressed="c.school === arm.figures.school"
          @click="emit('school', c.school)"
        >
          {{ c.words }}
        </button>
        <template v-if="c.exact_in !== null">
          <FigureButton
            :label="arm.stud ? t('rod, exact') : t('shim, exact')"
            :value="`${written(c.exact_in, unit)}${c.u_in === null ? '' : ` ${within(2 * c.u_in, unit)}`}`"
            :explanation="arm.explanations[`to_${c.school}`]"
          />
          <p class="take">
            <span
              >{{ arm.stud ? t('to be had') : t('in steps') }}
              <b>{{ written(c.rounded_in, unit) }}</b></span
            >
            <button
              v-if="c.rounded_in !== null"
              type="button"
              class="plain look"
              @click="emit('show', c.rounded_in)"
            >
              {{ t('Look') }}
            </button>
          </p>
          <p class="quiet">
            {{
              t('mark {inboard}', {
                inboard: smallSpan(c.inboard_in ?? 0, c.outboard_in ?? 0, unit),
              })
            }}<template v-if="c.inboard_u_in !== null">
              ({{ within(2 * Math.max(c.inboard_u_in, c.outboard_u_in ?? 0), unit) }})</template
            >{{
              t(', arm {angle}, lift {lift_change}', {
                angle: degrees(c.angle_deg ?? 0),
                lift_change: signed(c.lift_change_in ?? 0, unit),
              })
            }}<template v-if="!arm.stud">{{
              t(', zero lash {rod_change}', { rod_change: signed(c.rod_change_in ?? 0, unit) })
            }}</template>
          </p>
        </template>
        <p v-else-if="!c.refused" class="quiet">{{ t('The tries do not tell where yet.') }}</p>
        <p v-if="c.refused" class="refusal">{{ c.refused }}.</p>
      </article>
    </div>
    <p v-if="clash" class="clash" role="note">
      <b>{{ t('The schools differ.') }}</b>
      {{
        t(
          'The mid-lift mark stands {off} {off2} of the middle ({a}). To have both, stand, offset or another rocker must bring it {move} {move2}',
          {
            off: small(Math.abs(clash.off_in), unit),
            off2: side(clash.off_in),
            a: within(2 * clash.u_in, unit),
            move: small(Math.abs(clash.move_in), unit),
            move2: side(clash.move_in),
          },
        )
      }}<template v-if="arm.tip === 'roller'">{{
        t(': the fulcrum {fulcrum} from the stem’s axis', {
          fulcrum: length(clash.fulcrum_in, unit),
        })
      }}</template
      >.
    </p>
  </div>
</template>

<style scoped>
.says {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.schools {
  display: grid;
  gap: 8px;
}
article {
  border: 1.5px solid var(--rule);
  background: var(--paper);
  padding: 0 10px 8px;
}
article.chosen {
  border-color: var(--ink);
  border-width: 2px;
}
.name {
  display: block;
  width: 100%;
  min-height: 44px;
  padding: 0;
  border: 0;
  background: none;
  font: inherit;
  font-weight: 600;
  text-align: left;
  line-height: 1.1;
  color: var(--ink);
  cursor: pointer;
}
.chosen .name {
  border-bottom: 3px solid var(--accent);
}
article :deep(.label) {
  margin-top: 4px;
}
article :deep(.value) {
  font-size: 17px;
  white-space: normal;
}
p {
  margin: 0;
  line-height: 1.25;
  font-variant-numeric: tabular-nums;
}
.take {
  display: flex;
  align-items: center;
  justify-content: space-between;
}
.take small {
  display: block;
  font-size: 14px;
  color: var(--quiet);
}
.take b {
  font-size: 17px;
  white-space: nowrap;
}
.look {
  min-height: 36px;
  padding: 0 8px;
}
@media (pointer: coarse) {
  .look {
    min-height: 44px;
  }
}
.quiet {
  font-size: 14px;
  color: var(--quiet);
}
.refusal {
  color: var(--alarm-ink);
  font-weight: 600;
}
.clash {
  border-left: 5px double var(--alarm);
  padding: 2px 0 2px 12px;
}
</style>
