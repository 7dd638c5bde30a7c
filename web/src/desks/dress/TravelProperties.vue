<script setup lang="ts">
// How a thing is carried along its path: from when to when, how fast, how softly.
import { computed } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import NumberField from '@/ui/NumberField.vue'
import { inWords } from '@/ui/lengths'

const props = defineProps<{ node: string }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const n = computed(() => scene.doc.nodes[props.node])
const keys = computed(
  () => Object.values(scene.doc.curves).find((c) => c.node === props.node && c.channel === 'travel')?.keys ?? [],
)
const first = computed(() => keys.value[0])
const last = computed(() => keys.value.at(-1))
const way = computed(() => (void scene.changes, core.way('nodes', props.node)))
const start = computed(() => first.value?.frame ?? Math.round(head.story))
const end = computed(() => last.value?.frame ?? start.value + Math.round(scene.rate * 4))
/** How far along the path it is at the playhead, in metres; a change is a key there. */
const along = computed(() => {
  const at = keys.value.length ? core.curve(keys.value, head.story, head.story + 1, 1)[0]! : 0
  return at * way.value.length
})
function reach(metres: number, live = false) {
  const value = metres / way.value.length
  const args = { node: props.node, channel: 'travel', frame: Math.round(head.story), value, key: true }
  if (live) scene.preview('value', args)
  else scene.run('value', args)
}
function travel(more: object) {
  scene.run('travel', { node: props.node, in: start.value, out: end.value, ...more })
}
</script>
<template>
  <h3>Travel</h3>
  <label class="pick"
    >Path
    <select
      :value="n?.path ?? ''"
      aria-label="Travels on"
      @change="travel({ path: ($event.target as HTMLSelectElement).value, heading: !n?.camera })"
    >
      <option value="" disabled>none</option>
      <option v-for="(p, id) in scene.doc.paths" :key="id" :value="id">{{ p.name }}</option>
    </select></label
  >
  <template v-if="n?.path">
    <NumberField
      label="Sets off at"
      unit="f"
      :digits="0"
      :step="1"
      :value="start"
      @change="travel({ in: Math.round($event), out: Math.round($event) + end - start })"
    />
    <NumberField
      label="Takes"
      unit="s"
      :value="way.seconds"
      @change="travel({ out: start + Math.max(1, Math.round($event * scene.rate)) })"
    />
    <NumberField label="Speed" unit="m/s" :value="way.speed" @change="travel({ speed: Math.max(0.01, $event) })" />
    <NumberField
      v-if="way.length"
      label="Is here at"
      unit="m"
      title="How far along the path it is at this frame; a change sets a key"
      :value="along"
      @drag="reach($event, true)"
      @cancel="scene.cancel()"
      @change="reach($event)"
    />
    <dl class="figures">
      <dt>Length</dt>
      <dd>{{ inWords(way.length) }}</dd>
      <dt>Keys</dt>
      <dd>{{ keys.length }}</dd>
    </dl>
    <div class="row">
      <button class="act" :aria-pressed="first?.ease === 'soft'" @click="travel({ easeIn: first?.ease !== 'soft' })">
        Soft start
      </button>
      <button class="act" :aria-pressed="last?.ease === 'soft'" @click="travel({ easeOut: last?.ease !== 'soft' })">
        Soft stop
      </button>
      <button
        class="act"
        :aria-pressed="(first?.value ?? 0) > (last?.value ?? 1)"
        @click="travel({ reverse: !((first?.value ?? 0) > (last?.value ?? 1)) })"
      >
        Backward
      </button>
      <button v-if="!n.camera" class="act" :aria-pressed="!!n.alongPath" @click="travel({ heading: !n.alongPath })">
        Turns with it
      </button>
      <button class="act" @click="view.select('paths', n.path!)">Edit the path</button>
    </div>
    <p v-if="keys.length > 2" class="note">
      Its travel has {{ keys.length }} keys; a change here replaces them by two.
    </p>
  </template>
</template>
