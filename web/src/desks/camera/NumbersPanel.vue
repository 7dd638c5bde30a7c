<script setup lang="ts">
// The numbers that a crew asks for, to be read out or copied.
import { computed } from 'vue'
import { ElMessage } from 'element-plus'
import { Clipboard } from '@lucide/vue'
import { core } from '@/core/bridge'
import { useCamera } from './useCamera'
import { inWords } from '@/ui/lengths'

const props = defineProps<{ camera: string }>()
const { scene, head, tick, node, cam, now } = useCamera(() => props.camera)
const n = computed(() => (void tick.value, void scene.pictured, core.numbers(props.camera)))
const label = computed(() => (void tick.value, core.framing(props.camera, []).label))
const m = inWords
const deg = (v: number) => `${v.toFixed(1)}°`
const far = (v: number) => (v < 0 ? 'no end' : m(v))
interface Row {
  name: string
  value: string
  warn?: boolean
}
const groups = computed<{ title: string; rows: Row[] }[]>(() => {
  const f = n.value
  const c = now.value
  if (!f || !c || !cam.value) return []
  const shot: Row[] = [
    { name: 'Shot', value: label.value },
    { name: 'Lens above floor', value: f.height === null ? 'nothing below' : m(f.height) },
    ...(f.subject ? [{ name: `To ${f.subject}`, value: m(f.distance) }] : []),
    { name: 'Tilt', value: deg(f.tilt) },
    { name: 'Heading', value: deg(f.heading) },
    { name: 'Roll', value: deg(f.roll) },
  ]
  const lens: Row[] = [
    { name: 'Lens', value: `${c.focal.toFixed(1)} mm  f/${c.stop.toFixed(1)}` },
    { name: 'Focus', value: m(c.focus) },
    { name: 'Sharp', value: `${m(f.near)} – ${far(f.far)}` },
    { name: 'Hyperfocal', value: m(f.hyperfocal) },
    { name: 'Field of view', value: `${deg(c.hfov)} × ${deg(c.vfov)}` },
  ]
  const groups = [
    { title: 'Here', rows: shot },
    { title: 'Lens', rows: lens },
  ]
  if (f.moves) {
    const seconds = (f.to - f.from) / scene.rate
    groups.push({
      title: 'Move',
      rows: [
        { name: 'Speed here', value: inWords(f.speed, 2, 'm/s') },
        { name: 'From, to', value: `◷ ${f.from} – ${f.to}, ${seconds.toFixed(1)} s` },
        { name: 'Travel', value: m(f.travel) },
        { name: 'Greatest speed', value: `${f.greatest.toFixed(2)} m/s at ${f.greatestAt}` },
        { name: 'Fastest turn', value: `${f.pan.toFixed(1)} °/s at ${f.panAt}`, warn: f.pan > f.fastestPan },
      ],
    })
  }
  groups.push({
    title: 'Rules of thumb',
    rows: [
      { name: 'Pan strobes over', value: `${f.fastestPan.toFixed(1)} °/s` },
      ...(f.comfortable ? [{ name: `A ${f.size} wants`, value: `${f.comfortable.toFixed(1)} s` }] : []),
    ],
  })
  return groups
})
async function copy() {
  const text = [
    `Camera ${cam.value!.number} ${node.value!.name}, frame ${Math.round(head.story)}`,
    ...groups.value.flatMap((g) => g.rows.map((r) => `${r.name}: ${r.value}`)),
  ].join('\n')
  try {
    await navigator.clipboard.writeText(text)
    ElMessage({ message: 'The numbers are copied as text.', type: 'success' })
  } catch {
    ElMessage({ message: 'The browser does not let this page copy; select the numbers instead.', type: 'warning' })
  }
}
</script>
<template>
  <section v-for="g in groups" :key="g.title" :aria-label="g.title">
    <h3>{{ g.title }}</h3>
    <dl class="figures">
      <template v-for="r in g.rows" :key="r.name">
        <dt>{{ r.name }}</dt>
        <dd :class="{ warn: r.warn }" :title="r.warn ? 'Faster than this lens and rate can take without strobing' : ''">
          {{ r.value }}
        </dd>
      </template>
    </dl>
  </section>
  <button class="act wide" @click="copy"><Clipboard :size="14" /> Copy as text</button>
</template>
<style scoped>
.warn {
  color: var(--warning);
}
</style>
