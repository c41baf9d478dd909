<script setup lang="ts">
/** The other tools of a practice bench: gauges, fasteners, dye, clay, and rods to buy. */
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

const over = ref('checking rod')
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
  { eighths: 1, shown: '⅛', words: 'an eighth turn' },
  { eighths: 4, shown: '½', words: 'half a turn' },
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
    <summary>More tools</summary>
    <div class="more">
      <label
        >Indicator on the
        <select v-model="on" aria-label="What the indicator stands on">
          <option>lifter</option>
          <option>rod</option>
          <option>retainer</option>
        </select>
      </label>
      <button type="button" class="plain" @click="act('watch', { valve, on })">
        Read it at {{ valve }}
      </button>
      <label
        >Caliper over
        <select v-model="over" aria-label="What the caliper is put over">
          <option>checking rod</option>
          <option v-for="r in exercise.bought" :key="r.valve" :value="r.valve">
            rod of {{ r.valve }}
          </option>
        </select>
      </label>
      <label><input v-model="square" type="checkbox" /> held square</label>
      <label><input v-model="vernier" type="checkbox" /> with a vernier</label>
      <button type="button" class="plain" @click="act('caliper', { over, square })">Caliper</button>
      <button
        v-if="over !== 'checking rod'"
        type="button"
        class="plain"
        @click="act('roll', { rod: over })"
      >
        Roll the rod of {{ over }}
      </button>
      <button type="button" class="plain" @click="act('straight_edge', { valve })">
        Straight-edge over {{ valve }}
      </button>
      <button type="button" class="plain" @click="act('springs')">Thumb on a valve</button>
      <label v-if="exercise.banks.length > 1"
        >Head
        <select v-model="bank" aria-label="Head">
          <option v-for="b in exercise.banks" :key="b">{{ b }}</option>
        </select>
      </label>
      <button type="button" class="plain" @click="act('wrench', { bank })">
        Wrench on the rockers
      </button>
      <span v-if="own" class="turn" role="group" aria-label="Fasteners of the rocker">
        <button type="button" class="plain wide" @click="act('back_off', { valve })">
          Back {{ valve }} off
        </button>
        <button
          v-for="t in DRAWN"
          :key="t.eighths"
          type="button"
          class="plain"
          :aria-label="`Draw it down by ${t.words}`"
          @click="act('draw_down', { eighths: t.eighths })"
        >
          {{ t.shown }}
        </button>
      </span>
      <button type="button" class="plain" @click="emit('mark')">Paint, turn, look</button>
      <label
        >Angle by
        <select v-model="by" aria-label="What reads the arm's angle">
          <option>inclinometer</option>
          <option>square</option>
          <option>laser</option>
        </select>
      </label>
      <button type="button" class="plain" @click="act('angle', { by })">Angle of the arm</button>
      <template v-if="exercise.shims_in != null">
        <label
          >Shims, thou
          <input v-model="shims" class="length" inputmode="numeric" maxlength="3" />
        </label>
        <button
          type="button"
          class="plain"
          :disabled="!/^\d+$/.test(shims)"
          @click="act('shim', { thick_in: Number(shims) / 1000 })"
        >
          Under the stands
        </button>
      </template>
      <template v-if="exercise.has_lash">
        <label
          >Lash cold, thou
          <input v-model="lash" class="length" inputmode="decimal" maxlength="4" />
        </label>
        <button
          type="button"
          class="plain"
          :disabled="!(Number(lash) > 0)"
          @click="act('run_warm', { valve, lash_in: Number(lash) / 1000 })"
        >
          Run it warm
        </button>
      </template>
      <button type="button" class="plain" @click="act('press_down', { valve })">
        Turn {{ valve }} down to its piston
      </button>
      <button type="button" class="plain" @click="act('clay', { valve })">
        Clay under {{ valve }}
      </button>
      <label
        >Rod {{ own ? `of ${bareLength(own.length_in, 'in')} in` : 'for' }} {{ valve }}, buy
        <input v-model="typed" class="length" inputmode="decimal" placeholder="7.400" />
      </label>
      <label><input v-model="wholeKind" type="checkbox" /> for its kind</label>
      <button type="button" class="plain" :disabled="!typed" @click="buyTyped">Buy</button>
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
