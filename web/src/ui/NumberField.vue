<script setup lang="ts">
// A figure with its unit. Typing takes arithmetic (2.5+1), units (250mm, 3s)
// and changes of what is there (+10, ×1.1); dragging sideways over the label
// changes it live.
import { computed, nextTick, ref } from 'vue'
import { readFigure } from './figure'
import { shownUnit } from './lengths'
import { useDrag } from './useDrag'

const props = withDefaults(
  defineProps<{
    label: string
    value: number
    unit?: string
    digits?: number
    step?: number
    rate?: number
    keyed?: boolean
    disabled?: boolean
  }>(),
  { unit: '', digits: 2, step: 0.02, rate: 24 },
)
const emit = defineEmits<{ change: [value: number]; drag: [value: number]; cancel: [] }>()
const text = ref<string | null>(null)
const wrong = ref(false)
const input = ref<HTMLInputElement | null>(null)
const as = computed(() => shownUnit(props.unit))
const shown = computed(() => text.value ?? format(props.value * as.value.factor))

const hint = computed(() => {
  if (wrong.value) return `‘${text.value}’ is not a number; type a figure such as 2.5 or +0.5`
  return props.keyed ? 'Has keys: a change sets one here with auto-key on, and shifts all of them with it off' : ''
})

function format(v: number) {
  const s = v.toFixed(props.digits)
  return /^-0(\.0*)?$/.test(s) ? s.slice(1) : s
}
function commit() {
  if (text.value === null) return
  const typed = readFigure(text.value, props.value * as.value.factor, as.value.unit, props.rate)
  if (typed === null) {
    wrong.value = true
    return
  }
  text.value = null
  wrong.value = false
  const v = typed / as.value.factor
  if (v !== props.value) emit('change', v)
}
function enter() {
  commit()
  input.value?.select()
}
function drop() {
  text.value = null
  wrong.value = false
  void nextTick(() => input.value?.blur())
}
function leave() {
  commit()
  if (wrong.value) drop()
}

const drag = useDrag()
function down(e: PointerEvent) {
  if (props.disabled) return
  const from = props.value
  const to = (at: PointerEvent) => from + (at.clientX - e.clientX) * props.step
  drag.begin(e, e.currentTarget as HTMLElement, {
    move: (at) => emit('drag', to(at)),
    drop: (at) => emit('change', to(at)),
    click: () => input.value?.focus(),
    abandon: () => emit('cancel'),
  })
}
</script>
<template>
  <label class="field" :class="{ wrong, keyed }" :title="hint">
    <span class="label" @pointerdown="down" @click.prevent>{{ label }}</span>
    <input
      ref="input"
      :value="shown"
      :aria-label="label"
      :disabled="disabled"
      inputmode="decimal"
      autocomplete="off"
      spellcheck="false"
      @focus="($event.target as HTMLInputElement).select()"
      @input="text = ($event.target as HTMLInputElement).value"
      @keydown.enter.prevent="enter"
      @keydown.esc.stop="drop"
      @keydown.stop
      @blur="leave"
    />
    <span class="unit">{{ as.unit }}</span>
  </label>
</template>
<style scoped>
.field {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  align-items: center;
  height: 26px;
  padding-left: 8px;
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: 4px;
  font-size: 12px;
}
.field:focus-within {
  border-color: var(--brass);
}
.label {
  color: var(--dim);
  font-family: var(--font-condensed);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  cursor: ew-resize;
  touch-action: none;
  user-select: none;
}
input {
  width: 58px;
  border: 0;
  background: none;
  color: var(--text);
  font: 12px var(--font-mono);
  text-align: right;
  outline: none;
  padding: 0;
}
.unit {
  min-width: 18px;
  padding: 0 6px 0 3px;
  color: var(--dim);
  font: 11px var(--font-mono);
}
.keyed input {
  color: var(--brass);
}
.wrong {
  border-color: var(--warning);
}
</style>
