<script setup lang="ts">
// How long the shots are, against what is aimed at.
import { useVirtualList } from '@vueuse/core'
import { computed } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const rhythm = computed(() => {
  void scene.changes
  return core.rhythm(scene.cut.assembly)
})
const assembly = computed(() => scene.doc.assemblies[scene.cut.assembly])
const longest = computed(() => Math.max(1, assembly.value?.shotTarget ?? 0, ...rhythm.value.beats.map((b) => b.frames)))
const beats = computed(() => rhythm.value.beats)
const bars = useVirtualList(beats, { itemHeight: 18, overscan: 12 }) // only those in sight are drawn
const color = (shot: string) => scene.colorOf(scene.shotOf(shot))
const seconds = (f: number) => `${(f / scene.rate).toFixed(1)} s`
function go(shot: string) {
  view.select('shots', shot)
  head.setScreen(scene.shotOf(shot)?.screenIn ?? 0)
}
const set = (change: object) => scene.run('assemblySet', { id: scene.cut.assembly, ...change })
</script>
<template>
  <div class="body rhythm">
    <dl class="figures">
      <dt>Shots</dt>
      <dd>{{ rhythm.beats.length }}</dd>
      <dt>Average</dt>
      <dd>{{ rhythm.average.toFixed(1) }} f · {{ seconds(rhythm.average) }}</dd>
      <dt>Median</dt>
      <dd>{{ rhythm.median }} f · {{ seconds(rhythm.median) }}</dd>
      <dt>Running time</dt>
      <dd>{{ rhythm.total }} f · {{ seconds(rhythm.total) }}</dd>
      <template v-if="rhythm.gaps">
        <dt>Gaps besides</dt>
        <dd class="over">{{ rhythm.gaps }} f · {{ seconds(rhythm.gaps) }}</dd>
      </template>
      <template v-if="assembly?.target">
        <dt>Against the target</dt>
        <dd :class="{ over: rhythm.over > 0 }">{{ rhythm.over > 0 ? '+' : '' }}{{ rhythm.over }} f</dd>
      </template>
    </dl>
    <NumberField
      label="Target of a shot"
      unit="f"
      :digits="0"
      :rate="scene.rate"
      :value="assembly?.shotTarget ?? 0"
      @change="set({ shotTarget: Math.max(0, Math.round($event)) })"
    />
    <NumberField
      label="Target of the whole"
      unit="f"
      :digits="0"
      :rate="scene.rate"
      :value="assembly?.target ?? 0"
      @change="set({ target: Math.max(0, Math.round($event)) })"
    />
    <h3>Lengths</h3>
    <div class="bars" v-bind="bars.containerProps" role="group" aria-label="Shot lengths">
      <div v-bind="bars.wrapperProps.value" role="presentation">
        <button
          v-for="{ data: b } in bars.list.value"
          :key="b.shot"
          class="bar"
          :class="{ air: head.airShot === b.shot, far: b.far }"
          :title="`Shot ${b.number}: ${b.frames} frames${b.far ? `, ${b.off > 0 ? 'much longer' : 'much shorter'} than the target` : ''}`"
          @click="go(b.shot)"
        >
          <span class="number">{{ b.number }}</span>
          <span class="track"
            ><i :style="{ width: `${(b.frames / longest) * 100}%`, background: color(b.shot) }"></i
            ><em v-if="assembly?.shotTarget" :style="{ left: `${(assembly.shotTarget / longest) * 100}%` }"></em
          ></span>
          <span class="frames">{{ b.far ? (b.off > 0 ? '▲' : '▼') : '' }} {{ b.frames }}</span>
        </button>
      </div>
    </div>
    <p v-if="!rhythm.beats.length" class="note">There are no shots to measure yet.</p>
  </div>
</template>
<style scoped>
.rhythm {
  display: flex;
  flex-direction: column;
}
.bars {
  flex: 1 0 120px;
  min-height: 120px;
}
.bar {
  display: grid;
  grid-template-columns: 40px 1fr 52px;
  gap: 6px;
  align-items: center;
  width: 100%;
  height: 18px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--text);
  font: 11px var(--font-mono);
  text-align: left;
  cursor: pointer;
}
.bar.air .number {
  color: var(--vermilion);
}
.track {
  position: relative;
  height: 10px;
  background: var(--raised);
  border-radius: 2px;
}
.track i {
  display: block;
  height: 100%;
  border-radius: 2px;
}
.track em {
  position: absolute;
  top: -2px;
  bottom: -2px;
  width: 2px;
  background: var(--text);
}
.frames {
  text-align: right;
}
.far .frames,
.over {
  color: var(--warning);
}
</style>
