<script setup lang="ts">
/** The log of a valve, the latest first. Nothing is erased: a wrong line is struck through. */
import { t } from '../../kit/words'
import { computed } from 'vue'
import type { LogLine } from '../../api/client'
import FigureButton from '../../kit/FigureButton.vue'
import FeelGlyph from '../../kit/FeelGlyph.vue'
import { FEELS, length, small, when } from '../../kit/format'
import { usePrefs } from '../../kit/prefs'
import type { Entry } from '../../kit/outbox'

const props = defineProps<{ log: LogLine[]; unsent: Entry[] }>()
const emit = defineEmits<{
  strike: [line: LogLine]
  restore: [line: LogLine]
  note: [line: LogLine]
  retry: [key: string]
  drop: [key: string]
}>()
const { unit } = usePrefs()

const lines = computed(() => props.log.filter((line) => line.kind !== 'void').reverse())
const setting = (line: LogLine) =>
  line.turns_words === null ? line.raw : t('{turns_words} turns', { turns_words: line.turns_words })
</script>

<template>
  <ol class="log" :aria-label="t('Readings')">
    <li v-for="item in unsent" :key="item.key" class="unsent">
      <span class="what">{{ item.words }}</span>
      <template v-if="item.problem">
        <span class="state">{{
          item.refused ? item.problem.detail : t('waits for the server')
        }}</span>
        <button v-if="item.refused" type="button" class="plain" @click="emit('retry', item.key)">
          {{ t('Try again') }}
        </button>
        <button type="button" class="plain" @click="emit('drop', item.key)">
          {{ t('Discard') }}
        </button>
      </template>
      <span v-else class="state">{{ t('saving…') }}</span>
    </li>
    <li v-for="line in lines" :key="line.id" v-memo="[line, unit]" :class="{ struck: line.struck }">
      <template v-if="line.kind === 'trial' && line.feel && line.length_in !== null">
        <span class="number">{{ line.number }}</span>
        <FeelGlyph :feel="line.feel" />
        <span class="what">
          <b>{{ FEELS[line.feel] }}</b>
          <FigureButton
            label=""
            :value="length(line.length_in, unit)"
            :explanation="line.explanation ?? undefined"
          />
          <span v-if="line.gap_in !== null" class="gap">{{
            t('gap {gap}', { gap: small(line.gap_in, unit) })
          }}</span>
        </span>
        <span class="quiet">
          {{ setting(line) }} · {{ when(line.at) }} {{ line.by }}
          <template v-if="line.recomputed">
            {{ t('· worked out again: the instrument was corrected') }}</template
          >
          <em v-if="line.struck"> {{ line.struck_reason }}</em>
        </span>
      </template>
      <template v-else-if="line.method">
        <span class="number">{{ line.number }}</span>
        <span class="glyph way" aria-hidden="true">≈</span>
        <span class="what">
          <b>{{ line.method }}</b>
          <FigureButton
            label=""
            :value="
              line.length_in !== null
                ? length(line.length_in, unit)
                : t('preload {preload}', { preload: small(line.preload_in ?? 0, unit) })
            "
            :explanation="line.explanation ?? undefined"
          />
        </span>
        <span class="quiet">
          {{
            line.turns_words
              ? t('{turns_words} turns', { turns_words: line.turns_words })
              : line.raw
          }}
          <template v-if="line.raw_rod">{{
            t('on {raw_rod}', { raw_rod: line.raw_rod })
          }}</template>
          ·
          <template v-if="line.preload_in !== null">
            {{ t('preload {preload}', { preload: small(line.preload_in, unit) })
            }}<template v-if="line.plain_in !== null">
              {{ ` ${t('(plain {plain})', { plain: small(line.plain_in, unit) })}` }}</template
            >
            ·
          </template>
          ± {{ small(2 * (line.u_in ?? 0), unit) }} · {{ when(line.at) }} {{ line.by }}
          <em v-if="line.struck"> {{ line.struck_reason }}</em>
        </span>
      </template>
      <template v-else>
        <span class="number">↺</span>
        <span class="what wide" :class="{ off: line.count_agrees === false }">
          {{
            line.sentence ??
            t('Counted back {turns_words} turns.', { turns_words: line.turns_words })
          }}
        </span>
        <span class="quiet">
          {{ when(line.at) }} {{ line.by }}
          <em v-if="line.struck"> {{ line.struck_reason }}</em>
        </span>
      </template>
      <button
        v-if="line.number && !line.struck"
        type="button"
        class="strike note"
        :aria-label="
          t('Note on {method} {number}', {
            method: line.method ? t('reading') : t('trial'),
            number: line.number,
          })
        "
        :title="t('Note')"
        @click="emit('note', line)"
      >
        ✎
      </button>
      <button
        v-if="line.restorable"
        type="button"
        class="strike"
        :aria-label="
          t('Count {method} {number} again', {
            method: line.method ? t('reading') : t('trial'),
            number: line.number ?? '',
          })
        "
        :title="t('Count it again')"
        @click="emit('restore', line)"
      >
        ↶
      </button>
      <button
        v-else-if="!line.struck"
        type="button"
        class="strike"
        :aria-label="
          t('Strike out {number}', {
            number: line.number
              ? `${line.method ? t('reading') : t('trial')} ${line.number}`
              : t('count back'),
          })
        "
        :title="t('Strike out')"
        @click="emit('strike', line)"
      >
        ✕
      </button>
    </li>
    <li v-if="!lines.length && !unsent.length" class="empty">{{ t('No reading yet.') }}</li>
  </ol>
</template>

<style scoped>
.log {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 24px 22px 1fr 40px 44px;
  align-items: center;
  min-height: 48px;
  border-bottom: 1px solid var(--rule);
  font-variant-numeric: tabular-nums;
}
.number {
  font-weight: 600;
  grid-row: 1 / span 2;
}
.glyph {
  grid-row: 1 / span 2;
}
.way {
  font-weight: 600;
  color: var(--quiet);
}
.what {
  display: flex;
  align-items: baseline;
  flex-wrap: wrap;
  gap: 0 8px;
  font-size: 17px;
}
.what :deep(.value) {
  font-size: 17px;
  font-weight: 400;
}
.wide {
  grid-column: 3 / 5;
  padding: 4px 0 8px;
  font-size: 15px;
}
.off {
  color: var(--alarm-ink);
  font-weight: 600;
}
.gap {
  color: var(--quiet);
  /* On a line of its own it keeps clear of the line below. */
  padding-bottom: 8px;
}
.quiet {
  grid-column: 3;
  grid-row: 2;
  color: var(--quiet);
  font-size: 14px;
  margin-top: -8px;
  padding-bottom: 5px;
}
.struck .what,
.struck .number {
  text-decoration: line-through;
  color: var(--quiet);
}
em {
  text-decoration: none;
  display: inline-block;
  color: var(--ink);
}
.strike {
  grid-column: 5;
  grid-row: 1 / span 2;
  min-width: 44px;
  min-height: 44px;
  border: 0;
  background: none;
  color: var(--quiet);
  font-size: 16px;
  cursor: pointer;
}
.note {
  grid-column: 4;
}
.strike:hover,
.strike:focus-visible {
  color: var(--alarm-ink);
}
.unsent {
  grid-template-columns: 1fr auto auto auto;
  gap: 8px;
}
.state {
  color: var(--quiet);
}
.empty {
  display: block;
  padding-top: 12px;
  color: var(--quiet);
}
</style>
