<script setup lang="ts">
// A figure with its unit. Typing takes arithmetic (2.5+1), units (250mm, 3s)
// and changes of what is there (+10, ×1.1); dragging sideways over the label
// changes it live. For several things it shows the value that they share, and
// takes what is typed or dragged for each of them.
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
    values?: number[] // of several things, of which value is one
  }>(),
  { unit: '', digits: 2, step: 0.02, rate: 24, values: undefined },
)
const emit = defineEmits<{
  change: [value: number]
  drag: [value: number]
  cancel: []
  each: [values: number[], live: boolean] // of several things
}>()
const text = ref<string | null>(null)
const wrong = ref(false)
const input = ref<HTMLInputElement | null>(null)
const as = computed(() => shownUnit(props.unit))
const all = computed(() => props.values ?? [props.value])
const differ = computed(() => new Set(all.value.map((v) => format(v * as.value.factor))).size > 1)
const shown = computed(() => text.value ?? (differ.value ? '' : format(props.value * as.value.factor)))

const hint = computed(() => {
  if (differ.value && !wrong.value) return 'They differ. A figure is for all of them; +0.5 or ×2 changes each'
  if (wrong.value) return `‘${text.value}’ is not a number; type a figure such as 2.5 or +0.5`
  return props.keyed ? 'Has keys: a change sets one here with auto-key on, and shifts all of them with it off' : ''
})

function format(v: number) {
  const s = v.toFixed(props.digits)
  return /^-0(\.0*)?$/.test(s) ? s.slice(1) : s
}
function commit() {
  if (text.value === null) return
  if (differ.value && !text.value.trim()) return drop()
  const { factor, unit } = as.value
  const typed: number[] = []
  for (const v of all.value) {
    const t = readFigure(text.value, v * factor, unit, props.rate)
    if (t === null) {
      wrong.value = true
      return
    }
    typed.push(t / factor)
  }
  text.value = null
  wrong.value = false
  if (typed.some((v, i) => v !== all.value[i])) tell(typed, false)
}
function tell(values: number[], live: boolean) {
  if (props.values) emit('each', values, live)
  else if (live) emit('drag', values[0]!)
  else emit('change', values[0]!)
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
  const from = all.value
  const to = (at: PointerEvent) => from.map((v) => v + (at.clientX - e.clientX) * props.step)
  drag.begin(e, e.currentTarget as HTMLElement, {
    move: (at) => tell(to(at), true),
    drop: (at) => tell(to(at), false),
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
      :placeholder="differ ? 'differ' : ''"
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
