<script setup lang="ts">
/** Solid lifters: which valves at which stop, the feeler that drags, the one that must not enter. */
import { t } from '../../kit/words'
import type { SignOff } from '../../api/client'
import { small } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'

defineProps<{ lash: NonNullable<SignOff['lash']> }>()
const { unit } = usePrefs()
const KINDS = ['intake', 'exhaust'] as const
</script>

<template>
  <section class="lash" :aria-label="t('Lash sheet')">
    <h2>{{ t('Lash sheet') }}</h2>
    <ul>
      <li v-for="kind in KINDS" :key="kind">
        <b>{{ kind === 'intake' ? t('Intake') : t('Exhaust') }}</b>
        {{
          t('{go} drags, {no_go} must not enter', {
            go: small(lash.go_in[kind]!, unit),
            no_go: small(lash.no_go_in[kind]!, unit),
          })
        }}
        <span v-if="lash.cold_in[kind] != null" class="quiet">
          {{
            t('if {lash} is the hot lash, set {cold} cold on this engine (from memory)', {
              lash: small(lash.lash_in[kind]!, unit),
              cold: small(lash.cold_in[kind]!, unit),
            })
          }}
        </span>
      </li>
    </ul>
    <ol>
      <li v-for="(stop, i) in lash.stops" :key="i">
        <b>{{ stop.valves.join(', ') }}</b>
        <span class="quiet">
          <template v-if="stop.crank_deg !== null">{{ stop.crank_deg.toFixed(0) }}°: </template>
          {{ stop.words }}
        </span>
      </li>
    </ol>
    <p class="quiet">{{ t('Set, lock, and feel again: the lock nut moves it.') }}</p>
  </section>
</template>

<style scoped>
h2 {
  margin: 0;
  font-size: 21px;
}
ul,
ol {
  margin: 6px 0;
  padding-left: 22px;
  line-height: 1.5;
}
ul {
  list-style: none;
  padding: 0;
}
.quiet {
  color: var(--quiet);
  font-size: 14px;
  margin: 0;
}
</style>
