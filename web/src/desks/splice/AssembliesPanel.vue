<script setup lang="ts">
// The versions of the cut: choose, copy, compare, and a rough one from the lines.
import { Copy, Plus, Trash2 } from '@lucide/vue'
import { computed, reactive, ref } from 'vue'
import { core } from '@/core/bridge'
import { useCutting } from '@/stores/cutting'
import { usePlayhead } from '@/stores/playhead'
import { useAlternates } from '@/stores/alternates'
import { useScene } from '@/stores/scene'
import NumberField from '@/ui/NumberField.vue'
import ExchangePart from './ExchangePart.vue'

const scene = useScene()
const alternates = useAlternates()
const head = usePlayhead()
const cutting = useCutting()
const list = computed(() =>
  Object.entries(scene.doc.assemblies)
    .map(([id, a]) => ({ id, a }))
    .sort((x, y) => (x.a.order ?? 0) - (y.a.order ?? 0) || x.id.localeCompare(y.id)),
)
const now = computed(() => scene.cut.assembly)
const value = (e: Event) => (e.target as HTMLInputElement).value
function choose(id: string | undefined) {
  if (id) alternates.choose(id)
}
const add = () => choose(scene.make('assemblies', 'assemblyAdd', {})[0])
const copy = () => choose(scene.make('assemblies', 'assemblyDuplicate', { id: now.value })[0])
const stills = () => choose(scene.make('assemblies', 'oneFrameEach', { story: Math.round(head.story) })[0])

const others = computed(() => list.value.filter((x) => x.id !== now.value))
const other = computed({
  get: () => (others.value.some((o) => o.id === cutting.other) ? cutting.other : (others.value[0]?.id ?? '')),
  set: (id) => (cutting.other = id),
})
const differences = computed(() => {
  void scene.changes
  return other.value ? core.differences(now.value, other.value) : []
})

const speakers = computed(() => {
  const cast = new Set(Object.values(scene.doc.lines).map((l) => l.cast))
  return [...cast].map((id) => ({ id, name: scene.doc.nodes[id]?.name ?? id }))
})
const rough = reactive({ wide: '', lead: 6, lag: 8, minimum: 24, opening: 48, closing: 48 })
const chosen = ref<Record<string, string>>({})
const wide = computed(() => rough.wide || scene.wall[0]?.id || '')
function roughCut() {
  const r = head.marked.story ?? scene.doc.settings.story
  choose(
    scene.make('assemblies', 'roughCut', {
      ...rough,
      wide: wide.value,
      from: r.in,
      to: r.out,
      speakers: Object.fromEntries(speakers.value.map((s) => [s.id, chosen.value[s.id] ?? ''])),
    })[0],
  )
}
const fields = [
  ['lead', 'Lead before a line'],
  ['lag', 'Lag after it'],
  ['minimum', 'Shortest shot'],
  ['opening', 'Opening wide'],
  ['closing', 'Closing wide'],
] as const
</script>
<template>
  <div class="body">
    <h3>Assemblies of the scene</h3>
    <ul class="list" aria-label="Assemblies">
      <li v-for="{ id, a } in list" :key="id">
        <button class="choice" :aria-pressed="id === now" :aria-label="`Assembly ${a.name}`" @click="choose(id)">
          <span class="mark"></span>
        </button>
        <input
          v-typed
          class="rename"
          :value="a.name"
          :aria-label="`Name of assembly ${a.name}`"
          @keydown.stop
          @keydown.enter="($event.target as HTMLElement).blur()"
          @change="scene.run('assemblySet', { id, name: value($event) })"
        />
        <button
          v-if="list.length > 1"
          class="icon"
          :aria-label="`Remove assembly ${a.name}`"
          @click="scene.run('assemblyRemove', { id })"
        >
          <Trash2 :size="13" />
        </button>
      </li>
    </ul>
    <div class="row">
      <button class="act" @click="copy"><Copy :size="13" /> Duplicate</button>
      <button class="act" @click="add"><Plus :size="13" /> Empty</button>
      <button class="act" title="An assembly with one frame of each camera at the playhead" @click="stills">
        One frame per camera
      </button>
    </div>
    <template v-if="other">
      <h3>Against</h3>
      <div class="row flat">
        <select v-model="other" class="other" aria-label="Against assembly">
          <option v-for="{ id, a } in others" :key="id" :value="id">{{ a.name }}</option>
        </select>
        <button
          class="act"
          :aria-pressed="cutting.beside === 'compare'"
          @click="((cutting.other = other), (cutting.beside = cutting.beside === 'compare' ? '' : 'compare'))"
        >
          Side by side
        </button>
      </div>
      <ul class="differences" aria-label="Differences">
        <li v-for="(d, i) in differences" :key="i">
          <button @click="head.setScreen(d.at)">
            <b>{{ d.number }}</b> {{ d.what }}
            <span class="dim">{{ [d.first, d.second].filter(Boolean).join(' → ') }}</span>
          </button>
        </li>
      </ul>
      <p v-if="!differences.length" class="note">Both show the same.</p>
    </template>
    <ExchangePart />
    <h3>Rough cut from the lines</h3>
    <template v-if="speakers.length">
      <label v-for="s in speakers" :key="s.id" class="pick"
        >{{ s.name }}
        <select v-model="chosen[s.id]" :aria-label="`Camera for ${s.name}`">
          <option :value="undefined">the wide</option>
          <option v-for="c in scene.wall" :key="c.id" :value="c.id">{{ c.camera.number }} {{ c.node.name }}</option>
        </select></label
      >
      <label class="pick"
        >wide
        <select :value="wide" aria-label="Camera for the wide" @change="rough.wide = value($event)">
          <option v-for="c in scene.wall" :key="c.id" :value="c.id">{{ c.camera.number }} {{ c.node.name }}</option>
        </select></label
      >
      <NumberField
        v-for="[k, title] in fields"
        :key="k"
        :label="title"
        unit="f"
        :digits="0"
        :rate="scene.rate"
        :value="rough[k]"
        @change="rough[k] = Math.max(0, Math.round($event))"
      />
      <div class="row">
        <button class="act main" title="Makes a new assembly of ordinary shots" @click="roughCut">
          Make a rough cut
        </button>
      </div>
    </template>
    <p v-else class="note">There are no lines to follow yet; lines are written in Dress.</p>
  </div>
</template>
<style scoped>
.list,
.differences {
  margin: 0;
  padding: 0;
  list-style: none;
}
.list li {
  display: flex;
  gap: 4px;
  align-items: center;
}
.choice {
  width: 22px;
  height: 22px;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.mark {
  display: block;
  width: 10px;
  height: 10px;
  margin: 6px;
  border: 1px solid var(--dim);
  border-radius: 3px;
}
.choice[aria-pressed='true'] .mark {
  border-color: var(--brass);
  background: var(--brass);
}
.flat {
  margin-top: 0;
}
.other {
  flex: 1;
  height: 26px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12px var(--font);
}
.differences {
  margin-top: 6px;
}
.differences button {
  width: 100%;
  padding: 2px 4px;
  border: 0;
  background: none;
  color: var(--text);
  font: 12px var(--font-condensed);
  text-align: left;
  cursor: pointer;
}
.differences button:hover {
  background: var(--raised);
}
</style>
