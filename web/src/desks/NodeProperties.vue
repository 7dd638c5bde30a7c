<script setup lang="ts">
// The selection's place, size and build.
import { computed } from 'vue'
import { core } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView } from '@/stores/view'
import DifferFields from '@/ui/DifferFields.vue'
import ArrangeProperties from './dress/ArrangeProperties.vue'
import MarkProperties from './dress/MarkProperties.vue'
import ScreenPart from './dress/ScreenPart.vue'
import SharedFields from './dress/SharedFields.vue'
import TravelProperties from './dress/TravelProperties.vue'

const scene = useScene()
const view = useView()
const head = usePlayhead()
const node = computed(() => scene.doc.nodes[view.node])
const { pieces: shelf } = core.stock()
const stock = computed(() => shelf.find((s) => s.id === node.value?.piece?.stock))
const rename = (e: Event) =>
  scene.run('set', {
    collection: 'nodes',
    id: view.node,
    merge: { name: (e.target as HTMLInputElement).value },
    label: 'rename',
  })
/** Lets it ride, on the nearest person or vehicle to begin with. */
function ride() {
  const other = Object.entries(scene.doc.nodes).find(([id, n]) => id !== view.node && (n.kind === 'vehicle' || n.cast))
  if (!other) return
  const start = Math.round(head.story)
  const args = {
    cast: view.node,
    do: 'ride' as const,
    on: other[0],
    in: start,
    out: start + Math.round(2 * scene.rate),
  }
  const [made] = scene.make('actions', 'actionAdd', args)
  if (made) view.select('actions', made)
}
function remove() {
  if (scene.run('remove', { collection: 'nodes', ids: [view.node] })) view.select('nodes', '')
}
</script>
<template>
  <section v-if="node" class="props">
    <header class="head">
      <input
        v-typed
        class="rename"
        :value="node.name"
        aria-label="Name"
        @keydown.stop
        @keydown.enter="($event.target as HTMLElement).blur()"
        @change="rename"
      />
      <span class="kind">{{ stock?.title ?? node.kind }}</span>
    </header>
    <div class="body">
      <DifferFields collection="nodes" :id="view.node" />
      <ScreenPart v-if="stock?.id === 'screen'" :key="view.node" :node="view.node" />
      <SharedFields :nodes="[view.node]" />
      <TravelProperties v-if="!node.cast && node.kind !== 'group'" :node="view.node" />
      <template v-if="node.cast || node.kind === 'prop' || node.kind === 'vehicle'">
        <h3>Carried</h3>
        <div class="row">
          <button class="act" title="Let it ride on something for two seconds from here" @click="ride">
            Rides on…
          </button>
        </div>
      </template>
      <ArrangeProperties :nodes="[view.node]" />
      <MarkProperties :nodes="[view.node]" />
      <div class="row"><button class="act" @click="remove">Remove</button></div>
    </div>
  </section>
</template>
