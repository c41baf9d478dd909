<script setup lang="ts">
/** The other tools of a practice bench: gauges, fasteners, dye, clay, and rods to buy. */
import { t } from '../../kit/words'
import { computed, ref, watch } from 'vue'
import type { Build, Exercise } from '../../api/client'
import { bareLength } from '../../kit/format'
import type { Act, Bench } from './usePractice'

const props = defineProps<{
  exercise: Exercise
  build: Build
  valve: string
  act: Act
  buy: Bench['buy']
}>()
const emit = defineEmits<{ mark: [] }>()
/** Whether the caliper has a vernier in place of digits. */
const vernier = defineModel<boolean>('vernier', { required: true })

const over = ref(t('checking rod'))
const square = ref(true)
const on = ref('lifter')
const by = ref('inclinometer')
const bank = ref('')
watch(
  () => props.exercise.banks,
  (banks) => !banks.includes(bank.value) && (bank.value = banks[0] ?? ''),
  { immediate: true },
)
const shims = ref(String(Math.round((props.exercise.shims_in ?? 0) * 1000)))
const lash = ref('')
const DRAWN = [
  { eighths: 1, shown: '⅛', words: t('an eighth turn') },
  { eighths: 4, shown: '½', words: t('half a turn') },
]
const own = computed(() => props.exercise.bought.find((r) => r.valve === props.valve))
const typed = ref('')
const wholeKind = ref(true)
async function buyTyped() {
  const kind = props.build.valves.find((v) => v.name === props.valve)?.kind
  const wanted = props.build.valves.filter((v) =>
    wholeKind.value ? v.kind === kind : v.name === props.valve,
  )
  const length_in = Number(typed.value.replace(',', '.'))
  await props.buy(Object.fromEntries(wanted.map((v) => [v.name, length_in])))
}
</script>

<template>
  <details>
    <summary>{{ t('More tools') }}</summary>
    <div class="more">
      <label
        >{{ t('Indicator on the') }}
        <select v-model="on" :aria-label="t('What the indicator stands on')">
          <option>{{ t('lifter') }}</option>
          <option>{{ t('rod') }}</option>
          <option>{{ t('retainer') }}</option>
        </select>
      </label>
      <button type="button" class="plain" @click="act('watch', { valve, on })">
        {{ t('Read it at {valve}', { valve }) }}
      </button>
      <label
        >{{ t('Caliper over') }}
        <select v-model="over" :aria-label="t('What the caliper is put over')">
          <option>{{ t('checking rod') }}</option>
          <option v-for="r in exercise.bought" :key="r.valve" :value="r.valve">
            {{ t('rod of {valve}', { valve: r.valve }) }}
          </option>
        </select>
      </label>
      <label><input v-model="square" type="checkbox" /> {{ t('held square') }}</label>
      <label><input v-model="vernier" type="checkbox" /> {{ t('with a vernier') }}</label>
      <button type="button" class="plain" @click="act('caliper', { over, square })">
        {{ t('Caliper') }}
      </button>
      <button
        v-if="over !== 'checking rod'"
        type="button"
        class="plain"
        @click="act('roll', { rod: over })"
      >
        {{ t('Roll the rod of {over}', { over }) }}
      </button>
      <button type="button" class="plain" @click="act('straight_edge', { valve })">
        {{ t('Straight-edge over {valve}', { valve }) }}
      </button>
      <button type="button" class="plain" @click="act('springs')">
        {{ t('Thumb on a valve') }}
      </button>
      <label v-if="exercise.banks.length > 1"
        >{{ t('Head') }}
        <select v-model="bank" :aria-label="t('Head')">
          <option v-for="b in exercise.banks" :key="b">{{ b }}</option>
        </select>
      </label>
      <button type="button" class="plain" @click="act('wrench', { bank })">
        {{ t('Wrench on the rockers') }}
      </button>
      <span v-if="own" class="turn" role="group" :aria-label="t('Fasteners of the rocker')">
        <button type="button" class="plain wide" @click="act('back_off', { valve })">
          {{ t('Back {valve} off', { valve }) }}
        </button>
        <button
          v-for="turn in DRAWN"
          :key="turn.eighths"
          type="button"
          class="plain"
          :aria-label="t('Draw it down by {words}', { words: turn.words })"
          @click="act('draw_down', { eighths: turn.eighths })"
        >
          {{ turn.shown }}
        </button>
      </span>
      <button type="button" class="plain" @click="emit('mark')">
        {{ t('Paint, turn, look') }}
      </button>
      <label
        >{{ t('Angle by') }}
        <select v-model="by" :aria-label="t(`What reads the arm's angle`)">
          <option>{{ t('inclinometer') }}</option>
          <option>{{ t('square') }}</option>
          <option>{{ t('laser') }}</option>
        </select>
      </label>
      <button type="button" class="plain" @click="act('angle', { by })">
        {{ t('Angle of the arm') }}
      </button>
      <template v-if="exercise.shims_in != null">
        <label
          >{{ t('Shims, thou') }}
          <input v-model="shims" class="length" inputmode="numeric" maxlength="3" />
        </label>
        <button
          type="button"
          class="plain"
          :disabled="!/^\d+$/.test(shims)"
          @click="act('shim', { thick_in: Number(shims) / 1000 })"
        >
          {{ t('Under the stands') }}
        </button>
      </template>
      <template v-if="exercise.has_lash">
        <label
          >{{ t('Lash cold, thou') }}
          <input v-model="lash" class="length" inputmode="decimal" maxlength="4" />
        </label>
        <button
          type="button"
          class="plain"
          :disabled="!(Number(lash) > 0)"
          @click="act('run_warm', { valve, lash_in: Number(lash) / 1000 })"
        >
          {{ t('Run it warm') }}
        </button>
      </template>
      <button type="button" class="plain" @click="act('press_down', { valve })">
        {{ t('Turn {valve} down to its piston', { valve }) }}
      </button>
      <button type="button" class="plain" @click="act('clay', { valve })">
        {{ t('Clay under {valve}', { valve }) }}
      </button>
      <label
        >{{
          t('Rod {own} {valve}, buy', {
            own: own ? t('of {length} in', { length: bareLength(own.length_in, 'in') }) : t('for'),
            valve,
          })
        }}
        <input v-model="typed" class="length" inputmode="decimal" placeholder="7.400" />
      </label>
      <label><input v-model="wholeKind" type="checkbox" /> {{ t('for its kind') }}</label>
      <button type="button" class="plain" :disabled="!typed" @click="buyTyped">
        {{ t('Buy') }}
      </button>
    </div>
  </details>
</template>

<style scoped>
details {
  flex: 1 1 100%;
}
summary {
  min-height: 44px;
  line-height: 44px;
  cursor: pointer;
}
.more {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
.length {
  width: 84px;
  height: 44px;
  padding: 0 6px;
  color: inherit;
  background: var(--page);
  border: 1px solid var(--rule);
  font: inherit;
}
</style>
