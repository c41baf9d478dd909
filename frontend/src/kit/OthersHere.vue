<script setup lang="ts">
/** Others at work on this build, each a way to the valve they are at. */
import { t } from './words'
import { computed } from 'vue'
import { called, useOthers } from './whereabouts'

const props = defineProps<{ buildId: string }>()
const others = useOthers()
const here = computed(() => others.value.filter((seen) => seen.build_id === props.buildId))
</script>

<template>
  <p v-if="here.length" class="others">
    <span class="quiet">{{ t('Here too:') }}</span>
    <template v-for="seen in here" :key="seen.id">
      <RouterLink
        v-if="seen.valve_id"
        :to="{
          name: seen.station === 'rocker' ? 'rocker' : 'zero_lash',
          params: { buildId, valveId: seen.valve_id },
        }"
      >
        <b>{{ called(seen) }}</b> {{ t('at {valve_name}', { valve_name: seen.valve_name }) }}
      </RouterLink>
      <b v-else>{{ called(seen) }}</b>
    </template>
  </p>
</template>

<style scoped>
.others {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 16px;
  margin: 0;
  padding: 0;
}
.others a {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  min-height: 44px;
  margin: -10px 0;
}
.quiet {
  color: var(--quiet);
}
</style>
