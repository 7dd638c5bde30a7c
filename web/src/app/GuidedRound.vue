<script setup lang="ts">
// A round in ten steps from a set to a video, with the real controls: each step says
// what to do and where, sees when it is done, and can be passed over or left.
import { useIntervalFn, useLocalStorage } from '@vueuse/core'
import { X } from '@lucide/vue'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useDeliveries } from '@/stores/deliveries'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useView, type Desk } from '@/stores/view'

const emit = defineEmits<{ close: [] }>()
const scene = useScene()
const view = useView()
const head = usePlayhead()
const deliveries = useDeliveries()
const router = useRouter()
const at = useLocalStorage('proscen.round', 0)

const things = () => Object.keys(scene.doc.nodes).length
const focals = () =>
  JSON.stringify([
    scene.cameras.map((c) => c.camera.focal),
    Object.values(scene.doc.curves).filter((c) => c.channel === 'lens.focal'),
  ])
const keyed = () => JSON.stringify(scene.cameras.map((c) => c.camera.left?.length ?? 0))
const shots = () => scene.cut.shots.length
const seams = () => JSON.stringify(scene.cut.shots.map((s) => scene.shotOf(s.id)?.screenOut))

interface Step {
  title: string
  text: string
  desk?: Desk
  /** The control that it is about. */
  control: string
  /** What is different when the step is done. */
  told: () => unknown
  done?: (now: unknown, before: unknown) => boolean
}
const steps: Step[] = [
  {
    title: 'See the action',
    text: 'Everything that happens is played by the story clock ◷. Press Play, or Space.',
    desk: 'dress',
    control: '[aria-label=Play]',
    told: () => head.playing,
    done: (now) => now === true,
  },
  {
    title: 'Look around',
    text: 'This is the scout view. Drag to go around, roll the wheel to come nearer, then go on.',
    desk: 'dress',
    control: '[aria-label="Scout view"]',
    told: () => 0,
  },
  {
    title: 'Put something there',
    text: 'Press a thing of the stock, and then the place in a view where it goes.',
    desk: 'dress',
    control: '.shelf',
    told: things,
    done: (now, before) => (now as number) > (before as number),
  },
  {
    title: 'Go to the cameras',
    text: 'Frame is the desk of cameras: where they stand, what they see, how they move.',
    control: '[aria-label=Desks] button:nth-child(2)',
    told: () => view.desk,
    done: (now) => now === 'frame',
  },
  {
    title: 'Look through one',
    text: 'Press a camera on the wall, or its number.',
    desk: 'frame',
    control: '[aria-label^="Look through camera"]',
    told: () => view.through,
    done: (now, before) => !!now && now !== before,
  },
  {
    title: 'Change the lens',
    text: 'Press another focal length. What is kept, the place or the size of the subject, is chosen above them.',
    desk: 'frame',
    control: '.props',
    told: focals,
    done: (now, before) => now !== before,
  },
  {
    title: 'Add positions to a move',
    text: 'Unlock the camera (U), go to where it begins and press Y; go to another frame, move it, and press Y again.',
    desk: 'frame',
    control: '[aria-label="Add a position"]',
    told: keyed,
    done: (now, before) => now !== before,
  },
  {
    title: 'Go to the cut',
    text: 'Splice lays shots on the screen clock ▷. Each shows a stretch of the story through a camera.',
    control: '[aria-label=Desks] button:nth-child(3)',
    told: () => view.desk,
    done: (now) => now === 'splice',
  },
  {
    title: 'Cut to another camera',
    text: 'Go to a frame within a shot, and press a number: that camera is on air from there on. Or split with X.',
    desk: 'splice',
    control: '.strip',
    told: () => [shots(), seams()].join(),
    done: (now, before) => now !== before,
  },
  {
    title: 'Make the video',
    text: 'Choose a shot and press Deliver. Its video is made in the background, and plays in its row when it is done.',
    desk: 'turnover',
    control: '.props .act.main',
    told: () => deliveries.list.length,
    done: (now, before) => (now as number) > (before as number),
  },
]
const step = computed(() => steps[Math.min(at.value, steps.length - 1)]!)
const done = ref(false)
let before: unknown
watch(
  step,
  (s) => {
    before = s.told()
    done.value = !!s.done?.(before, before) // as it is where one has gone to its desk already
    if (s.desk && view.desk !== s.desk) void router.replace(`/scenes/${scene.id}/${s.desk}`)
  },
  { immediate: true },
)
watch(
  () => step.value.told(),
  (now) => {
    if (!step.value.done || step.value.done(now, before)) done.value = true
  },
)
function go(by: number) {
  if (at.value + by >= steps.length) {
    at.value = 0
    return emit('close')
  }
  at.value = Math.max(0, at.value + by)
}
/** Where the control is, for the ring around it. */
const ring = ref<Record<string, string> | null>(null)
function find() {
  const b = document.querySelector(step.value.control)?.getBoundingClientRect()
  ring.value = b?.width
    ? { left: `${b.x - 4}px`, top: `${b.y - 4}px`, width: `${b.width + 8}px`, height: `${b.height + 8}px` }
    : null
}
useIntervalFn(find, 200, { immediateCallback: true })
</script>
<template>
  <div v-if="ring && !done" class="ring" :style="ring" aria-hidden="true"></div>
  <aside class="round" role="complementary" aria-label="Guided round">
    <header>
      <b>{{ step.title }}</b>
      <span class="dim">{{ Math.min(at, steps.length - 1) + 1 }} of {{ steps.length }}</span>
      <button class="icon" aria-label="Leave the round" title="It goes on here the next time" @click="emit('close')">
        <X :size="14" />
      </button>
    </header>
    <p>{{ step.text }}</p>
    <p v-if="done" class="well" role="status">Done.</p>
    <footer>
      <button class="act" :disabled="!at" @click="go(-1)">Back</button>
      <button class="act" :class="{ main: done || !step.done }" @click="go(1)">
        {{ at + 1 >= steps.length ? 'End the round' : done || !step.done ? 'Go on' : 'Pass over' }}
      </button>
    </footer>
  </aside>
</template>
<style scoped>
.round {
  position: fixed;
  left: 50%;
  bottom: calc(var(--strip, 200px) + 76px);
  z-index: 70;
  width: 330px;
  padding: 12px 14px;
  transform: translateX(-50%);
  border: 1px solid var(--brass);
  border-radius: 8px;
  background: var(--panel);
  box-shadow: 0 10px 30px rgb(0 0 0 / 0.5);
}
header {
  display: flex;
  align-items: center;
  gap: 8px;
}
header b {
  flex: 1;
}
p {
  margin: 6px 0 10px;
}
.well {
  color: var(--good);
}
footer {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.ring {
  position: fixed;
  z-index: 65;
  border: 2px solid var(--brass);
  border-radius: 8px;
  box-shadow: 0 0 0 4px rgb(226 180 90 / 0.25);
  pointer-events: none;
}
</style>
