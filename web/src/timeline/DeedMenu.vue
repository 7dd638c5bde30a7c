<script setup lang="ts">
// What the selected person is to do from the playhead on.
import { MessageSquare, PersonStanding } from '@lucide/vue'
import { computed, ref } from 'vue'
import { onClickOutside } from '@vueuse/core'
import { core, type Action, type OperationName, type Operations } from '@/core/bridge'
import { deedWords } from '@/ui/words'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const open = ref(false)
const root = ref<HTMLElement | null>(null)
const list = ref<HTMLElement | null>(null)
onClickOutside(root, () => (open.value = false), { ignore: [list] })
/** The list lies over the views, outside the strip. */
const place = ref({ right: '0px', bottom: '0px' })
function toggle() {
  open.value = !open.value
  const b = root.value!.getBoundingClientRect()
  place.value = { right: `${Math.round(innerWidth - b.right)}px`, bottom: `${Math.round(innerHeight - b.top + 6)}px` }
}
/** The person meant: the one selected, or the one whose deed or line is. */
const who = computed(() => {
  const s = view.selected
  const id =
    s?.collection === 'actions'
      ? scene.doc.actions[s.id]?.cast
      : s?.collection === 'lines'
        ? scene.doc.lines[s.id]?.cast
        : view.node
  return id && scene.doc.nodes[id]?.cast ? id : ''
})
const name = computed(() => scene.doc.nodes[who.value]?.name ?? '')
const { deeds, gestures } = core.stock()
/** The animations of the imported model that stands for the person. */
const clips = computed(() => scene.doc.models[scene.doc.nodes[who.value]?.model ?? '']?.clips ?? [])
const body = computed(() => deeds.filter((d) => !gestures.includes(d) && (d !== 'clip' || clips.value.length > 0)))
const hands = deeds.filter((d) => gestures.includes(d))
const frame = computed(() => Math.round(head.story))
const others = computed(() => Object.entries(scene.doc.nodes).filter(([id, n]) => id !== who.value && n.cast))
const things = computed(() => Object.entries(scene.doc.nodes).filter(([, n]) => n.kind === 'prop'))
/** The path that is selected; without one, the core takes the last one of this person. */
const way = computed(() => (view.selected?.collection === 'paths' ? view.selected.id : ''))
function add(deed: Action['do']) {
  open.value = false
  const a: Operations['actionAdd'] & { out: number } = {
    cast: who.value,
    do: deed,
    in: frame.value,
    out: frame.value + Math.round(2 * scene.rate),
  }
  const other = others.value[0]?.[0]
  const thing = things.value[0]?.[0]
  if (deed === 'walk' || deed === 'run') {
    a.path = way.value
    a.out = frame.value
  }
  if (deed === 'clip') {
    a.clip = clips.value[0]!.name
    a.out = frame.value + Math.max(1, Math.round(clips.value[0]!.seconds * scene.rate))
  }
  if (['look', 'point', 'reach'].includes(deed)) a.face = other ?? thing
  if (['take', 'put', 'give'].includes(deed)) a.on = thing
  if (deed === 'give') {
    if (other && thing) run('handOver', { from: who.value, to: other, thing, in: a.in, out: a.out })
    return
  }
  run('actionAdd', a)
}
function run<N extends OperationName>(op: N, args: Operations[N]) {
  const [made] = scene.make('actions', op, args)
  if (made) view.select('actions', made)
}
function say() {
  const line = { cast: who.value, text: 'A line to be written', in: frame.value, gesture: true }
  const [made] = scene.make('lines', 'lineAdd', line)
  if (made) view.select('lines', made)
}
</script>
<template>
  <span v-if="who" ref="root" class="menu">
    <button class="act" :aria-expanded="open" aria-haspopup="menu" @click="toggle" @keydown.esc.stop="open = false">
      <PersonStanding :size="14" /> {{ name }} is to…
    </button>
    <button class="act" title="Give a line to speak from here" @click="say"><MessageSquare :size="14" /> Line</button>
    <Teleport to="body">
      <div
        v-if="open"
        ref="list"
        class="list"
        :style="place"
        @keydown.esc.stop="open = false"
        role="menu"
        :aria-label="`What ${name} is to do`"
      >
        <div>
          <h4>Body</h4>
          <button v-for="d in body" :key="d" role="menuitem" @click="add(d)">{{ deedWords[d] }}</button>
        </div>
        <div>
          <h4>Gesture</h4>
          <button v-for="d in hands" :key="d" role="menuitem" @click="add(d)">{{ deedWords[d] }}</button>
        </div>
      </div>
    </Teleport>
  </span>
</template>
<style scoped>
.menu {
  position: relative;
  display: flex;
  gap: 4px;
}
.list {
  position: fixed;
  z-index: 60;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 10px;
  width: 230px;
  padding: 8px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--panel);
  box-shadow: 0 6px 24px rgb(0 0 0 / 0.5);
}
h4 {
  margin: 0 6px 2px;
  color: var(--dim);
  font: 11px var(--font-condensed);
}
.list button {
  display: block;
  width: 100%;
  padding: 4px 6px;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--text);
  font: 12px var(--font);
  text-align: left;
  cursor: pointer;
}
.list button:hover,
.list button:focus-visible {
  background: var(--raised);
}
</style>
