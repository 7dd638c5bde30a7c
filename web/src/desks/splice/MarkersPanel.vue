<script setup lang="ts">
// All markers of both clocks with search; a marker that names a camera is a cue.
import { Trash2 } from '@lucide/vue'
import { computed, ref } from 'vue'
import { core, type Clock } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const search = ref('')
const list = computed(() =>
  Object.entries(scene.doc.markers)
    .filter(([, m]) => m.clock === 'story' || m.assembly === scene.cut.assembly)
    .filter(([, m]) => `${m.name} ${m.note ?? ''}`.toLowerCase().includes(search.value.toLowerCase()))
    .map(([id, m]) => ({ id, m }))
    .sort((a, b) => a.m.clock.localeCompare(b.m.clock) || a.m.frame - b.m.frame),
)
const id = computed(() => (view.selected?.collection === 'markers' ? view.selected.id : ''))
const marker = computed(() => scene.doc.markers[id.value])
const assembly = computed(() => scene.doc.assemblies[scene.cut.assembly])
const set = (merge: object, label: string) => scene.run('set', { collection: 'markers', id: id.value, merge, label })
const value = (e: Event) => (e.target as HTMLInputElement).value
function go(key: string) {
  view.select('markers', key)
  const m = scene.doc.markers[key]!
  if (m.clock === 'story') head.setStory(m.frame)
  else head.setScreen(m.frame)
}
const cues = (clock: 'story' | 'screen') =>
  Object.values(scene.doc.markers).filter(
    (m) => m.camera && m.clock === clock && (clock === 'story' || m.assembly === scene.cut.assembly),
  ).length
const follow = (clock: Clock | '') => scene.run('assemblySet', { id: scene.cut.assembly, cues: clock })
const clocks = ['story', 'screen'] as const
</script>
<template>
  <div class="body">
    <label class="find"
      ><input v-model="search" type="search" placeholder="find a marker" aria-label="Find a marker" @keydown.stop
    /></label>
    <ul class="list" aria-label="Markers">
      <li v-for="{ id: key, m } in list" :key="key">
        <button class="item" :class="{ selected: id === key }" :style="{ '--c': m.color }" @click="go(key)">
          <span :class="m.clock">{{ m.clock === 'story' ? '◷' : '▷' }} {{ m.frame }}</span> <b>{{ m.name }}</b>
          <span v-if="m.camera" class="dim">cue · {{ scene.doc.nodes[m.camera]?.name }}</span>
        </button>
      </li>
    </ul>
    <p v-if="!list.length" class="note">
      No marker{{ search ? ' is called that' : ' yet: M drops one at the playhead' }}.
    </p>
    <template v-if="marker">
      <h3>Marker</h3>
      <div class="top">
        <input
          v-typed
          class="rename"
          :value="marker.name"
          aria-label="Marker name"
          @keydown.stop
          @change="set({ name: value($event) }, 'name a marker')"
        />
        <input
          type="color"
          aria-label="Marker colour"
          :value="marker.color"
          @change="set({ color: value($event) }, 'colour a marker')"
        />
        <button
          class="icon"
          aria-label="Remove the marker"
          @click="scene.run('remove', { collection: 'markers', ids: [id] }) && view.select('markers', '')"
        >
          <Trash2 :size="13" />
        </button>
      </div>
      <dl class="figures">
        <dt>{{ marker.clock === 'story' ? '◷ story' : '▷ screen' }}</dt>
        <dd :class="marker.clock">{{ core.timecode(marker.clock, marker.frame) }}</dd>
      </dl>
      <NumberField
        label="Frame"
        unit="f"
        :digits="0"
        :rate="scene.rate"
        :value="marker.frame"
        @change="set({ frame: Math.round($event) }, 'move a marker')"
      />
      <NumberField
        label="Length"
        unit="f"
        :digits="0"
        :rate="scene.rate"
        :value="marker.frames ?? 0"
        @change="set({ frames: Math.max(0, Math.round($event)) }, 'length of a marker')"
      />
      <label class="pick"
        >cue for
        <select
          :value="marker.camera ?? ''"
          aria-label="Cue for"
          @change="set({ camera: value($event) || null }, 'cue')"
        >
          <option value="">no camera</option>
          <option v-for="c in scene.wall" :key="c.id" :value="c.id">{{ c.camera.number }} {{ c.node.name }}</option>
        </select></label
      >
      <textarea
        v-typed
        class="wide"
        rows="2"
        :value="marker.note ?? ''"
        placeholder="note"
        aria-label="Marker note"
        @keydown.stop
        @change="set({ note: value($event) || null }, 'note of a marker')"
      ></textarea>
    </template>
    <h3>Cues</h3>
    <p class="note">
      {{
        assembly?.cues
          ? `The program follows the cues on the ${assembly.cues} clock.`
          : 'The program follows the shots.'
      }}
    </p>
    <div class="row">
      <button v-if="assembly?.cues" class="act main" @click="follow('')">Follow the shots</button>
      <template v-for="c in clocks" v-else :key="c">
        <button v-if="cues(c)" class="act" @click="follow(c)">Follow the {{ c === 'story' ? '◷' : '▷' }} cues</button>
      </template>
    </div>
    <div class="row">
      <template v-for="c in clocks" :key="c">
        <button
          v-if="cues(c)"
          class="act"
          title="What is on the main lane goes to a spare lane"
          @click="scene.run('shotsFromCues', { assembly: scene.cut.assembly, clock: c })"
        >
          Shots from {{ c === 'story' ? '◷' : '▷' }} cues
        </button>
      </template>
      <button
        class="act"
        title="A cue on the story clock at the head of each shot"
        @click="scene.run('cuesFromShots', { assembly: scene.cut.assembly, clock: 'story' })"
      >
        ◷ cues from shots
      </button>
      <button
        class="act"
        title="A cue on the screen clock at the head of each shot"
        @click="scene.run('cuesFromShots', { assembly: scene.cut.assembly, clock: 'screen' })"
      >
        ▷ cues from shots
      </button>
    </div>
  </div>
</template>
<style scoped>
.find input,
.wide {
  width: 100%;
  margin-top: 8px;
  padding: 4px 6px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 12px var(--font);
}
.list {
  margin: 6px 0;
  padding: 0;
  list-style: none;
}
.item {
  display: flex;
  gap: 8px;
  width: 100%;
  padding: 3px 6px;
  border: 0;
  border-left: 3px solid var(--c);
  background: none;
  color: var(--text);
  font: 12px var(--font-condensed);
  text-align: left;
  cursor: pointer;
}
.item.selected {
  background: var(--raised);
}
.item span:first-child {
  min-width: 52px;
  font-family: var(--font-mono);
}
.top {
  display: flex;
  gap: 4px;
}
</style>
