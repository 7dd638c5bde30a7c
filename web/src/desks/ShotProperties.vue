<script setup lang="ts">
// A shot on both clocks.
import { computed } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import NumberField from '@/ui/NumberField.vue'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const id = computed(() => view.shot || head.airShot)
const shot = computed(() => scene.doc.shots[id.value])
const camera = computed(() => scene.doc.nodes[shot.value?.camera ?? ''])
const frames = computed(() => (shot.value ? shot.value.screenOut - shot.value.screenIn : 0))
const storyOut = computed(() => scene.cut.shots.find((s) => s.id === id.value)?.storyOut ?? 0)
function set(merge: object, label: string) {
  scene.run('set', { collection: 'shots', id: id.value, merge, label: `${label} of shot ${shot.value!.number}` })
}
function trim(edge: 'in' | 'out', by: number, ripple: boolean) {
  if (by) scene.run('shotTrim', { id: id.value, edge, by, ripple })
}
function remove(close: boolean) {
  if (scene.run('shotRemove', { ids: [id.value], close })) view.select('shots', '')
}
</script>
<template>
  <section v-if="shot" class="props">
    <header class="head">
      <CameraBadge v-if="camera?.camera" :number="camera.camera.number" :color="camera.camera.color" :size="26" />
      <input
        class="number"
        :value="shot.number"
        aria-label="Shot number"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="set({ number: ($event.target as HTMLInputElement).value }, 'number')"
      />
      <input
        class="rename"
        :value="shot.name ?? ''"
        placeholder="name"
        aria-label="Shot name"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="set({ name: ($event.target as HTMLInputElement).value }, 'name')"
      />
    </header>
    <div class="body">
      <h3>Camera</h3>
      <el-select
        :model-value="shot.camera"
        size="small"
        aria-label="Shot camera"
        @change="set({ camera: $event }, 'camera')"
      >
        <el-option
          v-for="c in scene.cameras.filter((c) => !c.camera.archived || c.id === shot!.camera)"
          :key="c.id"
          :value="c.id"
          :label="`${c.camera.number}  ${c.node.name}`"
        />
      </el-select>
      <h3 class="screen">▷ Screen time</h3>
      <dl class="figures">
        <dt>First frame</dt>
        <dd>{{ shot.screenIn }} · {{ core.timecode(shot.screenIn) }}</dd>
        <dt>Last frame</dt>
        <dd>{{ shot.screenOut - 1 }} · {{ core.timecode(shot.screenOut - 1) }}</dd>
      </dl>
      <NumberField
        label="Length, later shots follow"
        unit="f"
        :digits="0"
        :step="0.5"
        :rate="scene.rate"
        :value="frames"
        @change="trim('out', Math.round($event) - frames, true)"
      />
      <p class="dim note">{{ (frames / scene.rate).toFixed(2) }} seconds</p>
      <h3 class="story">◷ Story time</h3>
      <dl class="figures">
        <dt>Shows</dt>
        <dd>{{ shot.storyIn.toFixed(0) }}–{{ (storyOut - shot.speed).toFixed(0) }}</dd>
      </dl>
      <NumberField
        label="Begins at"
        unit="f"
        :digits="0"
        :step="0.5"
        :rate="scene.rate"
        :value="shot.storyIn"
        @change="set({ storyIn: Math.round($event) }, 'story range')"
      />
      <NumberField label="Speed" unit="×" :step="0.005" :value="shot.speed" @change="set({ speed: $event }, 'speed')" />
      <h3>Handles</h3>
      <NumberField
        label="Head"
        unit="f"
        :digits="0"
        :value="shot.head ?? 0"
        @change="set({ head: Math.max(0, Math.round($event)) }, 'head')"
      />
      <NumberField
        label="Tail"
        unit="f"
        :digits="0"
        :value="shot.tail ?? 0"
        @change="set({ tail: Math.max(0, Math.round($event)) }, 'tail')"
      />
      <div class="row">
        <button class="act" title="Delete, later shots close up" @click="remove(true)">Remove and close</button>
        <button class="act" title="Delete and leave a gap" @click="remove(false)">Remove</button>
      </div>
    </div>
  </section>
  <div v-else class="empty">
    <p>No shot is here.</p>
    <p class="dim">Press a camera on the wall: it goes on air at the playhead.</p>
  </div>
</template>
<style scoped>
.number {
  width: 46px;
  flex: none;
}
.note {
  margin: 4px 0 0;
  font-size: 12px;
}
</style>
