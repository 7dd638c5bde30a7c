<script setup lang="ts">
// What a person prefers: keys on each desk, size of the interface, units, guides.
import { useEventListener } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { guideNames, useGuides } from '@/stores/guides'
import { sizes, usePreferences, type Size } from '@/stores/preferences'
import { desks, useView, type Desk } from '@/stores/view'
import { onDesk, pressed, refused, shown, useKeys } from '@/stores/keys'
import type { Command } from '@/stores/keys'

const props = defineProps<{ commands: Command[] }>()
defineEmits<{ close: [] }>()
const preferences = usePreferences()
const guides = useGuides()
const view = useView()
const { keysOf, holder, give } = useKeys()
const desk = ref<Desk>(view.desk)
const everywhere = ref(true)
const here = computed(() => props.commands.filter((c) => onDesk(c, desk.value)))
/** The command that waits for its key. */
const asking = shallowRef<Command | null>(null)
const why = ref('')
/** A key that was pressed and belongs to other commands. */
const clash = shallowRef<{ key: string; takes: { desk: Desk; from: Command }[] } | null>(null)

function ask(c: Command) {
  asking.value = asking.value === c ? null : c
  why.value = ''
  clash.value = null
}
/** The desks that a change is for. */
const meant = (c: Command) => (everywhere.value ? desks.map((d) => d.id).filter((d) => onDesk(c, d)) : [desk.value])
function set(c: Command, key: string) {
  const takes = meant(c).flatMap((d) => {
    const from = holder(props.commands, c, d, key)
    return from ? [{ desk: d, from }] : []
  })
  if (takes.length) return void (clash.value = { key, takes })
  for (const d of meant(c)) give(c, d, key)
  ask(c)
}
function take() {
  const c = asking.value!
  const { key, takes } = clash.value!
  for (const t of takes) give(t.from, t.desk, '')
  for (const d of meant(c)) give(c, d, key)
  ask(c)
}
function none(c: Command) {
  for (const d of meant(c)) give(c, d, '')
  ask(c)
}
const changed = (c: Command) => preferences.keys[desk.value]?.[c.words] !== undefined
/** The key that it came with, unless another command has it by now: that is said. */
function usual(c: Command) {
  asking.value = c
  why.value = ''
  clash.value = null
  set(c, c.keys[0]?.toLowerCase() ?? '')
}
useEventListener(
  window,
  'keydown',
  (e) => {
    const c = asking.value
    if (!c || clash.value) return
    e.preventDefault()
    e.stopPropagation()
    if (e.key === 'Escape') return ask(c)
    const key = pressed(e)
    const no = refused(key)
    if (no === null) return
    why.value = no
    if (!no) set(c, key)
  },
  { capture: true },
)
const titleOf = (d: Desk) => desks.find((x) => x.id === d)!.title
const names = Object.keys(sizes) as Size[]
</script>
<template>
  <el-dialog
    append-to-body
    :model-value="true"
    title="Preferences"
    width="640"
    :close-on-press-escape="!asking"
    @close="$emit('close')"
  >
    <div class="preferences">
      <div class="row">
        <span>Size of the interface</span>
        <el-radio-group v-model="preferences.size" size="small" aria-label="Size of the interface">
          <el-radio-button v-for="s in names" :key="s" :value="s" :label="s" />
        </el-radio-group>
      </div>
      <div class="row">
        <span>Lengths in</span>
        <el-radio-group v-model="preferences.lengths" size="small" aria-label="Lengths in">
          <el-radio-button value="" label="as the scene says" />
          <el-radio-button value="metres" label="metres" />
          <el-radio-button value="feet" label="feet" />
        </el-radio-group>
      </div>
      <div class="row">
        <span>Views are drawn</span>
        <el-radio-group v-model="preferences.pictures" size="small" aria-label="Views are drawn">
          <el-radio-button value="delivered" label="as they are delivered" />
          <el-radio-button
            value="plain"
            label="plainly"
            title="Without shadows, lamps and haze, smooth edges and fine shapes: for machines whose graphics are slow. What is delivered stays as it is."
          />
        </el-radio-group>
      </div>
      <div class="row">
        <span>Guides in lens views</span>
        <div class="guides" role="group" aria-label="Guides in lens views">
          <label v-for="(name, g) in guideNames" :key="g" class="check"
            ><input v-model="guides[g]" type="checkbox" /> {{ name }}</label
          >
        </div>
      </div>
      <div class="row">
        <span>Keys on</span>
        <div class="keys-of">
          <el-radio-group v-model="desk" size="small" aria-label="Desk" @change="asking = null">
            <el-radio-button v-for="d in desks" :key="d.id" :value="d.id" :label="d.title" />
          </el-radio-group>
          <label class="check"><input v-model="everywhere" type="checkbox" /> change them on every desk</label>
        </div>
      </div>
      <ul aria-label="Keys">
        <li v-for="c in here" :key="c.words" :class="{ asked: asking === c }">
          <span class="words">{{ c.words }}</span>
          <template v-if="asking === c">
            <template v-if="clash">
              <span class="why" role="alert"
                >{{ shown(clash.key) }} is the key of
                {{ [...new Set(clash.takes.map((t) => `“${t.from.words}”`))].join(' and ') }} on
                {{ clash.takes.map((t) => titleOf(t.desk)).join(', ') }}.</span
              >
              <button class="act main" @click="take">Take it from there</button>
              <button class="act" @click="ask(c)">Leave it</button>
            </template>
            <template v-else>
              <span v-if="why" class="why" role="alert">{{ why }}</span>
              <span v-else class="dim">Press a key…</span>
              <button class="act" @click="none(c)">None</button>
              <button class="act" @click="ask(c)">Leave it</button>
            </template>
          </template>
          <template v-else>
            <button v-if="changed(c)" class="link" :aria-label="`The usual key for ${c.words}`" @click="usual(c)">
              as it was
            </button>
            <button
              class="key"
              :aria-label="`Key of ${c.words}: ${keysOf(c, desk).map(shown).join(' or ') || 'none'}`"
              @click="ask(c)"
            >
              {{ keysOf(c, desk).map(shown).join(' or ') || '—' }}
            </button>
          </template>
        </li>
      </ul>
      <p class="note">All of this is kept in this browser.</p>
    </div>
  </el-dialog>
</template>
<style scoped>
.preferences {
  display: grid;
  gap: 12px;
}
.row {
  display: grid;
  grid-template-columns: 140px minmax(0, 1fr);
  gap: 10px;
  align-items: center;
}
.row > span {
  color: var(--dim);
  font: 12px var(--font-condensed);
}
.guides,
.keys-of {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
}
ul {
  max-height: 38vh;
  margin: 0;
  padding: 0;
  overflow: auto;
  border: 1px solid var(--line);
  border-radius: 5px;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 30px;
  padding: 2px 8px;
  font: 12.5px var(--font);
}
li:nth-child(even) {
  background: var(--raised);
}
li.asked {
  outline: 1px solid var(--brass);
  outline-offset: -1px;
}
.words {
  flex: 1;
}
.key {
  min-width: 62px;
  height: 22px;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--panel);
  color: inherit;
  font: 12px var(--font-mono);
  cursor: pointer;
}
.key:hover {
  border-color: var(--dim);
}
.why {
  color: var(--warning);
}
.note {
  margin: 0;
}
</style>
