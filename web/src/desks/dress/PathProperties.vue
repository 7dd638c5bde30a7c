<script setup lang="ts">
// A path as a whole: its form, its direction, who goes on it, and a camera put there.
import { Camera as CameraIcon } from '@lucide/vue'
import { computed, reactive, watch } from 'vue'
import { core, type Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'
import { inWords } from '@/ui/lengths'
import { useSubjects } from '../useSubjects'

const props = defineProps<{ path: string }>()
const scene = useScene()
const view = useView()
const p = computed(() => scene.doc.paths[props.path])
const length = computed(() => (p.value ? (core.path(p.value).length ?? 0) : 0))
const forms = { curve: 'Curve', straight: 'Straight', arc: 'Arc', rise: 'Rise' }
const travellers = computed(() => [
  ...Object.entries(scene.doc.nodes).flatMap(([id, n]) =>
    n.path === props.path ? [{ id, name: n.name, does: 'travels' }] : [],
  ),
  ...Object.values(scene.doc.actions).flatMap((a) =>
    a.path === props.path ? [{ id: a.cast, name: scene.doc.nodes[a.cast]?.name ?? '', does: a.do }] : [],
  ),
])
const shape = (args: object) => scene.run('pathShape', { id: props.path, ...args })
const heights = computed(() => (p.value?.points ?? []).map((v) => v[1]!))
function point(i: number, height: number, live = false) {
  const v = p.value!.points[i]!
  const args = { id: props.path, index: i, to: [v[0], +height.toFixed(3), v[2]] as Vec3 }
  if (live) scene.preview('pathPoint', args)
  else scene.run('pathPoint', args)
}
const { shown } = useSubjects()
const head = usePlayhead()
const put = reactive({ at: '', height: null as number | null })
const { walking, driving } = core.trade()
const paces = { 'at walking pace': walking, 'at driving pace': driving }
const driven = computed(() => travellers.value.some((t) => scene.doc.nodes[t.id]?.kind === 'vehicle'))
const usual = computed(() => (void scene.changes, core.usualHeight(props.path, Math.round(head.story))))
// What was asked for one path is not meant for another.
watch(
  () => props.path,
  () => Object.assign(put, { at: '', height: null }),
)
/** Leaves a camera on the path, which goes along it, and looks through it. */
function camera(speed: number) {
  const [made] = scene.make('nodes', 'cameraOnPath', {
    path: props.path,
    frame: Math.round(head.story),
    speed,
    ...(put.height === null ? {} : { height: put.height }),
    ...(put.at ? { at: put.at } : {}),
    ...(view.camera || view.through ? { like: view.camera || view.through } : {}),
  })
  if (made) view.lookThrough(made)
}
function remove() {
  if (scene.run('remove', { collection: 'paths', ids: [props.path] })) view.select('paths', '')
}
</script>
<template>
  <section v-if="p" class="props" aria-label="Path">
    <header class="head">
      <input
        v-typed
        class="rename"
        :value="p.name"
        aria-label="Name"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="
          scene.run('set', {
            collection: 'paths',
            id: path,
            merge: { name: ($event.target as HTMLInputElement).value },
            label: 'rename a path',
          })
        "
      />
      <span class="kind">path</span>
    </header>
    <div class="body">
      <div class="row">
        <button
          v-for="(title, form) in forms"
          :key="form"
          class="act"
          :aria-pressed="p.form === form"
          @click="shape({ form })"
        >
          {{ title }}
        </button>
      </div>
      <dl class="figures">
        <dt>Length</dt>
        <dd>{{ inWords(length) }}</dd>
        <dt>Points</dt>
        <dd>{{ p.points.length }}</dd>
      </dl>
      <div class="row">
        <button class="act" @click="shape({ reverse: true })">Reverse</button>
        <button
          class="act"
          :aria-pressed="!!p.closed"
          :disabled="p.form === 'arc' || p.form === 'rise'"
          @click="shape({ closed: !p.closed })"
        >
          Closed
        </button>
        <button class="act" @click="remove">Remove</button>
      </div>
      <h3>Camera on this path</h3>
      <div class="pair">
        <el-select v-model="put.at" size="small" filterable aria-label="Aims" :empty-values="[null, undefined]">
          <el-option value="" label="looks along" />
          <el-option-group v-for="g in shown" :key="g.heading" :label="g.heading">
            <el-option v-for="s in g.of" :key="s.id" :value="s.id" :label="`looks at ${s.name}`" />
          </el-option-group>
        </el-select>
        <NumberField label="Height" unit="m" :value="put.height ?? usual" @change="put.height = $event" />
      </div>
      <div class="row">
        <button
          v-for="(speed, words) in paces"
          :key="words"
          class="act"
          :class="{ main: driven === (speed === driving) }"
          :title="`A new camera that goes along it with ${speed} m/s from this frame on`"
          @click="camera(speed)"
        >
          <CameraIcon :size="14" /> {{ words }}
        </button>
      </div>
      <h3>Heights</h3>
      <NumberField
        v-for="(h, i) in heights.slice(0, 24)"
        :key="i"
        :label="`Point ${i + 1}`"
        unit="m"
        :value="h"
        @drag="point(i, $event, true)"
        @cancel="scene.cancel()"
        @change="point(i, $event)"
      />
      <NumberField
        label="All"
        unit="m"
        :value="heights[0] ?? 0"
        @drag="scene.preview('pathShape', { id: path, height: $event })"
        @cancel="scene.cancel()"
        @change="shape({ height: $event })"
      />
      <h3>On it</h3>
      <p v-if="!travellers.length" class="note">
        Nobody goes here. Select a person and add a walk, or a vehicle and let it travel.
      </p>
      <p v-for="(t, i) in travellers" :key="i" class="note">
        <button class="link" @click="view.select('nodes', t.id)">{{ t.name }}</button>
        {{ t.does === 'travels' ? t.does : `${t.does}s` }}
      </p>
    </div>
  </section>
</template>
