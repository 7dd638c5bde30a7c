<script setup lang="ts">
// What the selected person is to do from the playhead on.
import { MessageSquare, PersonStanding } from '@lucide/vue'
import { computed } from 'vue'
import { core, type Action, type OperationName, type Operations } from '@/core/bridge'
import { deedWords } from '@/ui/words'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'

const scene = useScene()
const view = useView()
const head = usePlayhead()
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
  <span v-if="who" class="menu">
    <el-dropdown trigger="click" size="small" placement="top-end" max-height="66vh" @command="add">
      <button class="act"><PersonStanding :size="14" /> {{ name }} is to…</button>
      <template #dropdown>
        <el-dropdown-menu :aria-label="`What ${name} is to do`">
          <li class="kind" role="presentation">Body</li>
          <el-dropdown-item v-for="d in body" :key="d" :command="d">{{ deedWords[d] }}</el-dropdown-item>
          <li class="kind" role="presentation">Gesture</li>
          <el-dropdown-item v-for="d in hands" :key="d" :command="d">{{ deedWords[d] }}</el-dropdown-item>
        </el-dropdown-menu>
      </template>
    </el-dropdown>
    <button class="act" title="Give a line to speak from here" @click="say"><MessageSquare :size="14" /> Line</button>
  </span>
</template>
<style scoped>
.menu {
  display: flex;
  gap: 4px;
}
.kind {
  padding: 4px 16px 2px;
  color: var(--dim);
  font: 11px var(--font-condensed);
}
</style>
