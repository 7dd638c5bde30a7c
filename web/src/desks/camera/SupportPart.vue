<script setup lang="ts">
// How a camera is carried, where it is, and what turns it.
import { computed } from 'vue'
import { alone, core, type Camera, type Vec3 } from '@/core/bridge'
import NumberField from '@/ui/NumberField.vue'
import { useSubjects } from '../useSubjects'
import { useCamera } from './useCamera'

const props = defineProps<{ camera: string }>()
const { scene, view, head, node, cam, now, at, keyed, valueOf, runNow, merge, value, curve } = useCamera(
  () => props.camera,
)
const { subjects } = useSubjects()
const others = computed(() => subjects.value.filter((s) => s.id !== props.camera))
const joints = ['pelvis', 'chest', 'head', 'hand.left', 'hand.right']

function support(to: Camera['support']) {
  if (to === cam.value!.support) return
  const on = cam.value!.aimAt || others.value[0]?.id
  runNow('cameraSupport', to === 'mounted' ? { support: to, on } : { support: to })
}
const pathLength = computed(() => {
  const p = node.value?.path ? scene.doc.paths[node.value.path] : undefined
  return p ? (core.path(p).length ?? 0) : 0
})
const travel = computed(() => valueOf('travel', 0))
const paths = computed(() => Object.entries(scene.doc.paths).map(([id, p]) => ({ id, name: p.name || 'path' })))

function position(i: number, v: number, live: boolean) {
  // The other axes stay as they are: they may have keys.
  const args = { id: props.camera, frame: head.story, key: view.autoKey, position: alone(i, v) }
  if (live) scene.preview('place', args)
  else scene.run('place', args)
}
function turn(i: number, v: number, live: boolean) {
  if (i === 2 && cam.value!.aim === 'at') return value('turn.roll', v, live)
  const turn: Vec3 = [now.value!.pan, now.value!.tilt, now.value!.roll]
  turn[i] = +v.toFixed(4)
  const only = ['turn.pan', 'turn.tilt', 'turn.roll'][i]
  const args = { id: props.camera, frame: head.story, key: view.autoKey, turn, only }
  if (live) scene.preview('cameraTurn', args)
  else scene.run('cameraTurn', args)
}
function aim(how: Camera['aim']) {
  if (how === cam.value!.aim) return
  runNow('cameraAim', how === 'at' ? { aim: 'at', at: cam.value!.aimAt || others.value[0]?.id } : { aim: how })
}
const framing = (i: number) => valueOf(i ? 'framing.y' : 'framing.x', cam.value!.framing[i]!)
const held = (v: number) => Math.max(-1, Math.min(1, v))
function unrest(field: string, v: number) {
  merge({ unrest: { [field]: v } }, 'unrest')
}
const positionKeys = computed(() =>
  ['position.x', 'position.y', 'position.z'].some((c) => (curve(c)?.keys.length ?? 0) > 1),
)
</script>
<template>
  <template v-if="node && cam && now">
    <h3>Support</h3>
    <el-segmented
      :model-value="cam.support"
      block
      :options="[
        { value: 'sticks', label: 'sticks' },
        { value: 'dolly', label: 'dolly' },
        { value: 'handheld', label: 'handheld' },
        { value: 'mounted', label: 'mounted' },
      ]"
      aria-label="Support"
      @change="support($event as Camera['support'])"
    />
    <template v-if="cam.support === 'handheld' && cam.unrest">
      <NumberField
        label="Unrest"
        :step="0.01"
        :value="valueOf('unrest.amount', cam.unrest.amount)"
        :keyed="keyed('unrest.amount')"
        @drag="value('unrest.amount', Math.max(0, $event), true)"
        @cancel="scene.cancel()"
        @change="value('unrest.amount', Math.max(0, $event))"
      />
      <div class="pair">
        <NumberField label="Rate" unit="Hz" :value="cam.unrest.rate" @change="unrest('rate', $event)" />
        <NumberField
          label="Seed"
          :digits="0"
          :step="1"
          :value="cam.unrest.seed"
          @change="unrest('seed', Math.max(0, Math.round($event)))"
        />
      </div>
    </template>
    <div v-if="cam.support === 'mounted'" class="pair">
      <el-select
        :model-value="node.parent ?? ''"
        size="small"
        filterable
        aria-label="Mounted on"
        @change="runNow('cameraSupport', { support: 'mounted', on: $event })"
      >
        <el-option v-for="s in others" :key="s.id" :value="s.id" :label="`on ${s.name}`" />
      </el-select>
      <el-select
        v-if="scene.doc.nodes[node.parent ?? '']?.cast"
        :model-value="node.joint ?? ''"
        size="small"
        aria-label="Mounted on joint"
        :empty-values="[null, undefined]"
        @change="runNow('cameraSupport', { support: 'mounted', on: node.parent, joint: $event })"
      >
        <el-option value="" label="whole body" />
        <el-option v-for="j in joints" :key="j" :value="j" :label="j.replace('.', ' ')" />
      </el-select>
    </div>
    <template v-if="node.path">
      <NumberField
        label="Travel"
        unit="m"
        :step="0.02"
        keyed
        :value="travel * pathLength"
        @drag="value('travel', $event / pathLength, true)"
        @cancel="scene.cancel()"
        @change="value('travel', $event / pathLength)"
      />
      <el-select
        :model-value="node.path"
        size="small"
        aria-label="Path"
        @change="runNow('cameraSupport', { support: 'dolly', path: $event })"
      >
        <el-option v-for="p in paths" :key="p.id" :value="p.id" :label="p.name" />
      </el-select>
    </template>
    <button v-else-if="positionKeys" class="act wide" @click="scene.run('pathFromKeys', { id: camera })">
      Make a path of its keys
    </button>
    <h3>{{ node.path ? 'Offset from the path' : 'Position' }}</h3>
    <div class="three">
      <NumberField
        v-for="(a, i) in ['X', 'Height', 'Z']"
        :key="a"
        :label="a"
        unit="m"
        :value="node.path || node.parent ? valueOf(`position.${'xyz'[i]}`, node.position[i]!) : at[i]!"
        :keyed="keyed(`position.${'xyz'[i]}`)"
        @drag="position(i, $event, true)"
        @cancel="scene.cancel()"
        @change="position(i, $event, false)"
      />
    </div>
    <h3>Aim</h3>
    <el-segmented
      :model-value="cam.aim"
      block
      :options="[
        { value: 'free', label: 'free' },
        { value: 'along', label: 'along', disabled: !node.path },
        { value: 'at', label: 'at' },
      ]"
      aria-label="Aim"
      @change="aim($event as Camera['aim'])"
    />
    <template v-if="cam.aim === 'at'">
      <el-select
        :model-value="cam.aimAt ?? ''"
        size="small"
        filterable
        aria-label="Aim at"
        @change="runNow('cameraAim', { aim: 'at', at: $event })"
      >
        <el-option v-for="s in others" :key="s.id" :value="s.id" :label="s.name" />
      </el-select>
      <div class="pair">
        <NumberField
          v-for="(a, i) in ['Right', 'Up']"
          :key="a"
          :label="a"
          :title="`${a} in picture`"
          :value="framing(i)"
          :step="0.005"
          :keyed="keyed(`framing.${'xy'[i]}`)"
          @drag="value(`framing.${'xy'[i]}`, held($event), true)"
          @cancel="scene.cancel()"
          @change="value(`framing.${'xy'[i]}`, held($event))"
        />
      </div>
      <NumberField
        label="Operator lag"
        unit="s"
        :step="0.01"
        :value="cam.lag ?? 0"
        @change="merge({ lag: Math.max(0, Math.min(10, $event)) || null }, 'lag')"
      />
    </template>
    <div class="three">
      <NumberField
        v-for="(a, i) in ['Pan', 'Tilt', 'Roll']"
        :key="a"
        :label="a"
        unit="°"
        :digits="1"
        :step="0.2"
        :value="[now.pan, now.tilt, now.roll][i]!"
        :disabled="(cam.aim === 'at' && i < 2) || (cam.level && i === 2)"
        :keyed="keyed(`turn.${a.toLowerCase()}`)"
        @drag="turn(i, $event, true)"
        @cancel="scene.cancel()"
        @change="turn(i, $event, false)"
      />
    </div>
    <el-checkbox
      :model-value="!!cam.level"
      size="small"
      @change="merge({ level: !!$event || null }, $event ? 'level the horizon' : 'free the horizon')"
      >Keep the horizon level</el-checkbox
    >
  </template>
</template>
