<script setup lang="ts">
/** A picture for the phone's camera: it signs that phone in as whoever asks, once, within two minutes. */
import { t } from '../../kit/words'
import { useIntervalFn } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { answer, api, problemOf, type Device, type Pairing, type Problem } from '../../api/client'
import ProblemNote from '../../kit/ProblemNote.vue'

const props = defineProps<{ devices: Device[] }>()
const pairing = ref<Pairing | null>(null)
const paired = ref<string | null>(null)
const problem = ref<Problem | null>(null)
const away = useTemplateRef<HTMLButtonElement>('away')
let before: string[] = []
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 1000)
const left = computed(() =>
  pairing.value ? Math.ceil((Date.parse(pairing.value.until) - now.value) / 1000) : 0,
)
async function begin() {
  try {
    before = props.devices.map((device) => device.id)
    pairing.value = await answer(api.POST('/api/pairings'))
    now.value = Date.now()
    problem.value = paired.value = null
    await nextTick()
    // The button that was pressed is gone; the picture stays where the eye is.
    away.value?.focus({ preventScroll: true })
  } catch (thrown) {
    problem.value = problemOf(thrown)
  }
}
watch(
  () => props.devices,
  (devices) => {
    const fresh = devices.find((device) => !before.includes(device.id))
    if (!pairing.value || !fresh) return
    paired.value = fresh.label || t('A device')
    pairing.value = null
  },
)
</script>

<template>
  <div class="pairing">
    <template v-if="pairing && left > 0">
      <img
        :src="pairing.picture"
        :alt="t('QR code that pairs a device')"
        width="232"
        height="232"
      />
      <p>
        {{ t("Point the phone's camera at it, or open") }}
        <b>{{ pairing.address.split('/pair')[0] }}/pair</b>
        {{ t('and type') }}
      </p>
      <b class="code">{{ pairing.code }}</b>
      <p class="quiet" role="timer">
        {{
          t('For one device, {left}:{a} left.', {
            left: Math.floor(left / 60),
            a: String(left % 60).padStart(2, '0'),
          })
        }}
      </p>
      <p v-if="pairing.only_here" class="warn">
        {{
          t(
            "No other device reaches this address. Open this page by the machine's name or number on the network first.",
          )
        }}
      </p>
      <details v-if="pairing.fingerprint">
        <summary>{{ t('The phone warns of the certificate') }}</summary>
        <p class="quiet">
          {{
            t(
              'The shop made it itself. Go on only where the phone shows this fingerprint (SHA-256):',
            )
          }}
        </p>
        <code>{{ pairing.fingerprint }}</code>
      </details>
      <button ref="away" type="button" class="plain" @click="pairing = null">
        {{ t('Put it away') }}
      </button>
    </template>
    <template v-else>
      <p v-if="paired" role="status">{{ t('{paired} is signed in.', { paired }) }}</p>
      <p v-else-if="pairing" role="status">{{ t('Two minutes are over; the code is void.') }}</p>
      <button type="button" class="plain strong" @click="begin">
        {{ t('Pair a phone or tablet') }}
      </button>
    </template>
    <ProblemNote :problem="problem" />
  </div>
</template>

<style scoped>
.pairing {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 8px;
}
p {
  margin: 0;
}
img {
  max-width: 100%;
}
.code {
  font-size: 24px;
  letter-spacing: 0.05em;
}
.quiet {
  font-size: 15px;
  color: var(--quiet);
}
.warn {
  padding: 8px 12px;
  color: var(--alarm-ink);
  background: var(--alarm-paper);
}
summary {
  min-height: 44px;
  line-height: 44px;
}
code {
  font-size: 13px;
  overflow-wrap: anywhere;
}
</style>
