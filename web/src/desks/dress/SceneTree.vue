<script setup lang="ts">
// What is in the scene: groups and what hangs on what, as a tree. Things are
// shown, hidden, locked and chosen here; the filter says what the views grab.
import { useTip } from '@/stores/keys'
import { ChevronDown, ChevronRight, Eye, EyeOff, FolderPlus, Lock, LockOpen, Search } from '@lucide/vue'
import { computed, reactive, ref } from 'vue'
import { useArranging } from '@/stores/arranging'
import { useScene } from '@/stores/scene'
import { grabKinds, useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import DifferMark from '@/ui/DifferMark.vue'
import PersonMarks from '@/ui/PersonMarks.vue'
import { usePlayhead } from '@/stores/playhead'
import type { Node } from '@/core/bridge'

const tip = useTip()

const scene = useScene()
const view = useView()
const head = usePlayhead()
const arranging = useArranging()
const search = ref('')
const opened = reactive(new Set<string>())
const kinds = ['camera', 'cast', 'vehicle', 'prop', 'group', 'aim', 'lamp', 'set']
const rank = (n: Node) => kinds.indexOf(n.kind)

interface Row {
  id: string
  n: Node
  depth: number
  holds: number
}
const below = computed(() => {
  const out = new Map<string, [string, Node][]>()
  for (const [id, n] of Object.entries(scene.doc.nodes)) {
    const at = n.parent ?? ''
    const list = out.get(at)
    if (list) list.push([id, n])
    else out.set(at, [[id, n]])
  }
  for (const list of out.values())
    list.sort(
      ([, a], [, b]) =>
        rank(a) - rank(b) ||
        (a.camera?.number ?? 0) - (b.camera?.number ?? 0) ||
        a.name.localeCompare(b.name, 'en', { numeric: true }),
    )
  return out
})
const rows = computed<Row[]>(() => {
  const wanted = search.value.trim().toLowerCase()
  if (wanted)
    return Object.entries(scene.doc.nodes)
      .filter(([, n]) => n.name.toLowerCase().includes(wanted) || n.kind.includes(wanted))
      .map(([id, n]) => ({ id, n, depth: 0, holds: 0 }))
  const out: Row[] = []
  const walk = (parent: string, depth: number) => {
    for (const [id, n] of below.value.get(parent) ?? []) {
      const holds = below.value.get(id)?.length ?? 0
      out.push({ id, n, depth, holds })
      if (holds && opened.has(id) && depth < 30) walk(id, depth + 1)
    }
  }
  walk('', 0)
  return out
})
function fold(id: string) {
  if (opened.has(id)) opened.delete(id)
  else opened.add(id)
}
function choose(e: MouseEvent, id: string) {
  if (e.ctrlKey || e.metaKey) return view.toggle(id)
  if (e.shiftKey && view.node) {
    const ids = rows.value.map((r) => r.id)
    const [a, b] = [ids.indexOf(view.node), ids.indexOf(id)]
    if (a >= 0)
      return view.selectNodes([
        view.node,
        ...ids.slice(Math.min(a, b), Math.max(a, b) + 1).filter((x) => x !== view.node),
      ])
  }
  view.select('nodes', id)
}
/** What an eye or a lock acts on: the whole selection, if the row belongs to it. */
const those = (id: string) => (view.nodes.includes(id) ? view.nodes : [id])
function flag(id: string, field: 'hidden' | 'locked', words: [string, string]) {
  const on = !scene.doc.nodes[id]![field]
  const ids = those(id)
  const what = ids.length > 1 ? `${ids.length} things` : scene.doc.nodes[id]!.name
  const label = `${words[on ? 0 : 1]} ${what}`
  scene.run('setMany', { collection: 'nodes', ids, merge: { [field]: on || null }, label })
}
const naming = ref('') // whose name is being typed
function name(id: string, e: Event) {
  if (naming.value !== id) return // it has been typed, or given up
  naming.value = ''
  const to = (e.target as HTMLInputElement).value.trim()
  if (to && to !== scene.doc.nodes[id]?.name)
    scene.run('set', { collection: 'nodes', id, merge: { name: to }, label: `name ${to}` })
}
/** Hangs what is dragged on another row, or on nothing. */
let dragged: string[] = []
function drop(on: string) {
  const ids = dragged.filter((id) => id !== on)
  dragged = []
  if (!ids.length) return
  if (on) scene.run('attach', { ids, to: on, frame: head.story })
  else scene.run('detach', { ids, frame: head.story })
}
</script>
<template>
  <section class="in-scene">
    <header class="head">
      In scene
      <button
        class="icon small"
        aria-label="Group the selection"
        :title="tip('Group the selection', 'group the selection')"
        :disabled="view.nodes.length < 1"
        @click="arranging.group()"
      >
        <FolderPlus :size="14" />
      </button>
      <label class="search"
        ><Search :size="13" /><input v-model="search" aria-label="Search the scene" placeholder="search" @keydown.stop
      /></label>
    </header>
    <label class="grab"
      >Can be selected
      <select v-model="view.grab" aria-label="Can be selected" :class="{ narrowed: view.grab !== 'all' }">
        <option v-for="g in grabKinds" :key="g.id" :value="g.id">
          {{ g.id === 'all' ? '' : 'only ' }}{{ g.title }}
        </option>
      </select></label
    >
    <ul class="scrolls tree" aria-label="In scene" @dragover.prevent @drop.prevent="drop('')">
      <li
        v-for="{ id, n, depth, holds } in rows"
        :key="id"
        :class="{ selected: view.isSelected('nodes', id), hidden: n.hidden }"
        :style="{ paddingLeft: `${depth * 12}px` }"
        draggable="true"
        @dragstart="dragged = those(id)"
        @dragover.prevent.stop
        @drop.prevent.stop="drop(id)"
      >
        <button
          v-if="holds"
          class="fold"
          :aria-label="`${opened.has(id) ? 'Close' : 'Open'} ${n.name}`"
          @click="fold(id)"
        >
          <ChevronDown v-if="opened.has(id)" :size="13" /><ChevronRight v-else :size="13" />
        </button>
        <i v-else class="fold"></i>
        <input
          v-if="naming === id"
          v-typed
          :ref="(el) => (el as HTMLInputElement | null)?.focus()"
          class="rename"
          :value="n.name"
          :aria-label="`Name of ${n.name}`"
          @focus="($event.target as HTMLInputElement).select()"
          @keydown.stop
          @keydown.enter="name(id, $event)"
          @keydown.esc="naming = ''"
          @blur="name(id, $event)"
        />
        <button
          v-else
          class="row-name"
          :title="n.camera ? 'Press twice to look through it' : 'Press twice to name it'"
          @click="choose($event, id)"
          @dblclick="n.camera ? view.lookThrough(id) : (naming = id)"
        >
          <CameraBadge v-if="n.camera" :number="n.camera.number" :color="n.camera.color" :size="16" />
          <span
            v-else
            class="dot"
            :style="{ background: n.tint ?? n.cast?.coat ?? n.lamp?.color ?? 'var(--line)' }"
          ></span>
          <span class="name">{{ n.name }}</span><PersonMarks :of="`nodes/${id}`" /><DifferMark
            :of="`nodes/${id}`"
          /><span class="kind">{{ holds ? holds : n.kind }}</span>
        </button>
        <button
          class="flag"
          :class="{ on: n.locked }"
          :aria-label="`${n.locked ? 'Unlock' : 'Lock'} ${n.name}`"
          @click="flag(id, 'locked', ['lock', 'unlock'])"
        >
          <Lock v-if="n.locked" :size="12" /><LockOpen v-else :size="12" />
        </button>
        <button
          class="flag"
          :class="{ on: n.hidden }"
          :aria-label="`${n.hidden ? 'Show' : 'Hide'} ${n.name}`"
          @click="flag(id, 'hidden', ['hide', 'show'])"
        >
          <EyeOff v-if="n.hidden" :size="12" /><Eye v-else :size="12" />
        </button>
      </li>
      <li v-if="!rows.length" class="dim none">Nothing here is called “{{ search }}”.</li>
    </ul>
  </section>
</template>
<style scoped>
.in-scene {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr);
  min-height: 0;
  border-top: 1px solid var(--line);
}
.small {
  width: 22px;
  height: 22px;
}
.grab {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 0 10px 4px;
  color: var(--dim);
  font: 11.5px var(--font-condensed);
}
.grab select {
  flex: 1;
  height: 20px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: inherit;
}
.grab .narrowed {
  border-color: var(--brass);
  color: var(--brass);
}
.tree {
  overflow-y: auto;
  margin: 0;
  padding: 0 6px 8px;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  height: 23px;
  border-radius: 4px;
}
li:hover {
  background: var(--raised);
}
li.selected {
  background: var(--raised);
  box-shadow: inset 2px 0 0 var(--text);
}
li.hidden .row-name {
  color: var(--dim);
  font-style: italic;
}
.fold {
  flex: none;
  width: 15px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--dim);
  cursor: pointer;
}
.row-name {
  display: flex;
  flex: 1;
  align-items: center;
  gap: 6px;
  min-width: 0;
  height: 100%;
  padding: 0 4px 0 0;
  border: 0;
  background: none;
  color: var(--text);
  font: 12px var(--font-condensed);
  text-align: left;
  cursor: pointer;
}
.flag {
  flex: none;
  width: 18px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--text);
  opacity: 0;
  cursor: pointer;
}
li:hover .flag,
.flag:focus-visible {
  opacity: 0.6;
}
.flag.on {
  color: var(--brass);
  opacity: 1 !important;
}
.dot {
  width: 10px;
  height: 10px;
  margin: 0 3px;
  border-radius: 3px;
  flex: none;
}
.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.kind {
  color: var(--dim);
  font-size: 11px;
}
.none {
  padding: 8px;
  font-size: 12px;
}
</style>
