<script setup lang="ts">
/** What to read next and what it wins, and whether the trade's rule of direction holds here. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import type { Rocker } from '../../api/client'
import { fill, within } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'

const props = defineProps<{ arm: Rocker }>()
const { unit } = usePrefs()
const open = computed(() => props.arm.verdict.state !== 'settled')
const following = computed(() => (open.value ? props.arm.next_readings.slice(0, 4) : []))
const chance = (share: number) => `${Math.min(Math.round(share * 100), 99)} %`
</script>

<template>
  <div class="next">
    <p v-if="arm.direction" class="rule">{{ arm.direction }}</p>
    <ol v-if="following.length">
      <li v-for="n in following" :key="`${n.kind} ${n.words}`">
        {{ fill(n.words, n.lengths, n.smalls, unit) }}
        <span class="quiet">
          <template v-if="n.decides">{{ `${t('tells too low from too high;')} ` }}</template>{{
            t('then {a}', { a: within(2 * n.setting_u_in, unit) })
          }}<template v-if="n.chance >= 0.5">{{
            t(', {stud} good with {chance}', {
              stud: arm.stud ? t('rod') : t('shim'),
              chance: chance(n.chance),
            })
          }}</template>
        </span>
      </li>
    </ol>
    <p v-else class="quiet">
      {{ open ? t('No reading would tell more.') : t('Nothing more to read.') }}
    </p>
    <p v-if="arm.untold.length" class="quiet">
      {{ t('The marks do not tell: {a}.', { a: arm.untold.join('; ') }) }}
    </p>
  </div>
</template>

<style scoped>
.next {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
p {
  margin: 0;
  line-height: 1.25;
}
.rule {
  border-left: 3px solid var(--rule);
  padding-left: 10px;
}
.quiet {
  font-size: 14px;
  color: var(--quiet);
}
ol {
  margin: 0;
  padding-left: 20px;
  line-height: 1.25;
}
</style>
