<script setup lang="ts">
// One field that finds things, cameras, shots, markers, lines, deeds, scenes and
// commands by a few letters, and goes there.
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type SceneInfo } from '@/api/client'
import { deedWords } from '@/ui/words'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView, desks, type Desk } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import { find, type Findable } from './finding'
import { onDesk as isOn, useKeys } from '@/stores/keys'
import type { Command } from '@/stores/keys'

const props = defineProps<{ commands: Command[] }>()
const emit = defineEmits<{ close: [] }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const router = useRouter()
const typed = ref('')
const at = ref(0)
const field = ref<HTMLInputElement | null>(null)
const others = shallowRef<SceneInfo[]>([])
/** The server does not say which other scenes there are. */
const alone = ref(false)
onMounted(async () => {
  await nextTick()
  field.value?.focus()
  try {
    others.value = await ask(api.GET('/scenes'))
  } catch {
    alone.value = true
  }
})

const { shownOf } = useKeys()
const desk = (d: Desk) => router.replace(`/scenes/${scene.id}/${d}`)
async function onDesk(d: Desk, then: () => unknown) {
  if (view.desk !== d) await desk(d)
  then()
}
const all = computed<Findable[]>(() => {
  const out: Findable[] = []
  const { doc } = scene
  for (const [id, n] of Object.entries(doc.nodes)) {
    if (n.camera)
      out.push({
        id: `nodes/${id}`,
        kind: 'camera',
        name: n.name,
        also: `${n.camera.number}`,
        color: n.camera.color,
        go: () =>
          void onDesk('frame', () => {
            view.select('nodes', id)
            view.lookThrough(id)
          }),
      })
    else
      out.push({
        id: `nodes/${id}`,
        kind: n.kind,
        name: n.name,
        go: () =>
          ['dress', 'frame'].includes(view.desk)
            ? view.select('nodes', id)
            : void onDesk('dress', () => view.select('nodes', id)),
      })
  }
  for (const s of scene.cut.shots) {
    const shot = scene.shotOf(s.id)
    if (!shot) continue
    out.push({
      id: `shots/${s.id}`,
      kind: 'shot',
      name: shot.name || shot.number,
      also: shot.number,
      color: scene.colorOf(shot),
      go: () =>
        void onDesk('splice', () => {
          view.select('shots', s.id)
          head.setScreen(shot.screenIn)
        }),
    })
  }
  for (const [id, p] of Object.entries(doc.paths))
    out.push({
      id: `paths/${id}`,
      kind: 'path',
      name: p.name,
      go: () => void onDesk(view.desk === 'frame' ? 'frame' : 'dress', () => view.select('paths', id)),
    })
  for (const [id, m] of Object.entries(doc.markers))
    out.push({
      id: `markers/${id}`,
      kind: 'marker',
      name: m.name,
      color: m.color,
      go: () =>
        void onDesk(m.clock === 'screen' ? 'splice' : view.desk === 'frame' ? 'frame' : 'dress', () => {
          view.select('markers', id)
          if (m.clock === 'screen') head.setScreen(m.frame)
          else head.setStory(m.frame)
        }),
    })
  const story = (collection: 'lines' | 'actions', id: string, frame: number) => () =>
    void onDesk('dress', () => {
      view.select(collection, id)
      head.setStory(frame)
    })
  for (const [id, l] of Object.entries(doc.lines))
    out.push({
      id: `lines/${id}`,
      kind: 'line',
      name: l.text,
      also: doc.nodes[l.cast]?.name,
      go: story('lines', id, l.in),
    })
  for (const [id, a] of Object.entries(doc.actions))
    out.push({
      id: `actions/${id}`,
      kind: 'action',
      name: `${doc.nodes[a.cast]?.name ?? ''}: ${deedWords[a.do] ?? a.do} ${doc.nodes[a.face ?? a.on ?? '']?.name ?? ''}`.trim(),
      go: story('actions', id, a.in),
    })
  for (const d of desks)
    out.push({ id: `desk/${d.id}`, kind: 'desk', name: d.title, also: d.hint, go: () => void desk(d.id) })
  for (const s of others.value)
    if (s.id !== scene.id && !s.binnedAt)
      out.push({
        id: `scenes/${s.id}`,
        kind: 'scene',
        name: s.title,
        also: s.production,
        go: () => void router.push(`/scenes/${s.id}/${s.shots ? 'splice' : 'dress'}`),
      })
  out.push({ id: 'home', kind: 'command', name: 'all scenes', go: () => void router.push('/') })
  for (const c of props.commands)
    if (!c.hidden)
      out.push({
        id: `command/${c.words}`,
        kind: 'command',
        name: c.words,
        key: shownOf(c, isOn(c, view.desk) ? view.desk : c.desks![0]!),
        go: () => (isOn(c, view.desk) ? c.run() : void onDesk(c.desks![0]!, c.run)),
      })
  return out
})
const found = computed(() => find(all.value, typed.value, 12))
watch(typed, () => (at.value = 0))
watch(at, async () => {
  await nextTick()
  document.querySelector('.find [aria-selected=true]')?.scrollIntoView({ block: 'nearest' })
})
function take(f: Findable | undefined) {
  if (!f) return
  emit('close')
  void nextTick(f.go)
}
function key(e: KeyboardEvent) {
  e.stopPropagation()
  const n = found.value.length
  if (e.key === 'Escape') emit('close')
  else if (e.key === 'Enter') take(found.value[at.value])
  else if (e.key === 'ArrowDown' && n) at.value = (at.value + 1) % n
  else if (e.key === 'ArrowUp' && n) at.value = (at.value + n - 1) % n
  else return
  e.preventDefault()
}
</script>
<template>
  <div class="shade" @pointerdown.self="emit('close')">
    <div class="find" role="dialog" aria-label="Find" aria-modal="true">
      <input
        ref="field"
        v-model="typed"
        role="combobox"
        aria-label="Find things, shots, lines, scenes and commands"
        aria-controls="found"
        :aria-expanded="found.length > 0"
        :aria-activedescendant="found.length ? `found-${at}` : undefined"
        placeholder="find a thing, a shot, a line, a scene, a command"
        autocomplete="off"
        spellcheck="false"
        @keydown="key"
      />
      <ul v-if="found.length" id="found" role="listbox" aria-label="Found">
        <li
          v-for="(f, i) in found"
          :id="`found-${i}`"
          :key="f.id"
          role="option"
          :aria-selected="i === at"
          @pointermove="at = i"
          @click="take(f)"
        >
          <span class="kind">{{ f.kind }}</span>
          {{ ' ' }}<CameraBadge v-if="f.kind === 'camera'" :number="Number(f.also)" :color="f.color!" :size="18" />
          <i v-else class="dot" :style="{ background: f.color ?? 'transparent' }"></i>
          <span class="name">{{ f.kind === 'shot' && f.also !== f.name ? `${f.also} ${f.name}` : f.name }}</span>
          <kbd v-if="f.key">{{ f.key }}</kbd>
        </li>
      </ul>
      <p v-else-if="typed.trim()" class="none">Nothing here is called “{{ typed }}”.</p>
      <p v-if="alone" class="none" role="status">Other scenes cannot be looked for: the server does not answer.</p>
    </div>
  </div>
</template>
<style scoped>
.shade {
  position: fixed;
  inset: 0;
  z-index: 2100;
  background: rgb(9 13 15 / 0.45);
}
.find {
  width: 520px;
  margin: 11vh auto 0;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--panel);
  box-shadow: 0 10px 40px rgb(0 0 0 / 0.5);
  overflow: hidden;
}
input {
  width: 100%;
  height: 44px;
  padding: 0 16px;
  border: 0;
  border-bottom: 1px solid var(--line);
  background: none;
  color: var(--text);
  font: 15px var(--font);
  outline: none;
}
ul {
  max-height: 52vh;
  margin: 0;
  padding: 4px;
  overflow: auto;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
  gap: 10px;
  height: 30px;
  padding: 0 12px;
  border-radius: 4px;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--raised);
}
.dot {
  width: 10px;
  height: 10px;
  margin: 0 4px;
  border-radius: 3px;
}
.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.kind {
  order: 1;
  color: var(--dim);
  font: 12px var(--font-condensed);
}
kbd {
  padding: 0 6px;
  border: 1px solid var(--line);
  border-radius: 4px;
  font: 11px/18px var(--font-mono);
}
.none {
  margin: 0;
  padding: 12px 16px;
  color: var(--dim);
}
</style>
