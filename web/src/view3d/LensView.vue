<script setup lang="ts">
// Through one camera: the picture in its gate, with guides over it. The frame
// tells the three states: looked through, unlocked for moving, on air.
import { useTip } from '@/stores/keys'
import { Columns3, Crosshair, Grid3x3, Lock, LockOpen, MapPinPlus, PictureInPicture2, Route } from '@lucide/vue'
import { PerspectiveCamera, Vector2 } from 'three'
import { computed, ref, watch } from 'vue'
import { useElementSize } from '@vueuse/core'
import { core } from '@/core/bridge'
import { guideNames, useGuides } from '@/stores/guides'
import { usePlayhead } from '@/stores/playhead'
import { useMatching } from '@/stores/matching'
import { useScene } from '@/stores/scene'
import { handlings, useView } from '@/stores/view'
import CameraBadge from '@/ui/CameraBadge.vue'
import BoardOver from './lens/BoardOver.vue'
import DeliveredButton from './lens/DeliveredButton.vue'
import DeliveredFrame from './lens/DeliveredFrame.vue'
import { aroundInset, useInsetPlace } from './lens/insetPlace'
import InsetView from './lens/InsetView.vue'
import LensGuides from './lens/LensGuides.vue'
import MatchOver from './lens/MatchOver.vue'
import { useLeaving } from './leaving'
import { useDelivered } from './lens/useDelivered'
import { useCameraMoves } from './lens/useCameraMoves'
import { presses } from '@/ui/useDrag'
import { fit, useStageView } from './useStageView'
import { usePane } from './usePane'

const tip = useTip()

const props = defineProps<{ camera: string }>()
const scene = useScene()
const view = useView()
const pane = usePane('lens')
const head = usePlayhead()
const guides = useGuides()
const matching = useMatching()
const element = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(element)
const lens = new PerspectiveCamera()
const margin = 10
/** On air it has the light of its shot, and is seen as the cut sees it. */
const delivered = useDelivered(() =>
  head.airCamera === props.camera && head.airShot
    ? { frame: head.screen }
    : { frame: head.story, camera: props.camera },
)
const beside = ref(false) // the board stands beside the picture
const box = computed(() => {
  const w = beside.value ? width.value / 2 : width.value
  const b = fit(Math.max(1, w - 2 * margin), Math.max(1, height.value - 2 * margin), scene.aspect)
  return { ...b, x: b.x + margin, y: b.y + margin }
})
/** The picture that it is matched to lies over it, and takes the presses. */
const matched = computed(() => matching.pressing && matching.camera === props.camera && !unlocked.value)
/** Without the mask, what lies around the gate is seen too. */
const around = computed(() => view.guides && !guides.value.mask && !beside.value)
const wider = computed(() => ({ x: width.value / box.value.width, y: height.value / box.value.height }))
const { pane: room } = useInsetPlace()
watch([width, height], ([width, height]) => (room.value = { width, height }))
const stage = useStageView(
  element,
  () => (props.camera && stage.lens(props.camera, lens, around.value ? wider.value : undefined) ? lens : null),
  {
    frame: () => (around.value ? { x: 0, y: 0, width: width.value, height: height.value } : box.value),
    shot: () => (head.airCamera === props.camera ? head.airShot : ''),
    focus: () => ({
      camera: props.camera,
      sensor: (node.value?.camera?.sensor ?? [36, 24]) as [number, number],
      blur: !!scene.doc.settings.blur && !around.value,
      tint: view.guides && guides.value.sharp,
    }),
  },
)
const node = computed(() => scene.doc.nodes[props.camera])
const unlocked = computed(() => view.unlocked === props.camera && !!props.camera)
const onAir = computed(() => head.airCamera === props.camera && !!props.camera)
const style = computed(() => ({
  left: `${box.value.x}px`,
  top: `${box.value.y}px`,
  width: `${box.value.width}px`,
  height: `${box.value.height}px`,
  '--camera': node.value?.camera?.color ?? 'var(--line)',
  clipPath: view.inset ? aroundInset(box.value) : 'none',
}))

const shade = computed(() => ({
  ...style.value,
  clipPath: view.inset ? aroundInset(box.value, Math.max(width.value, height.value)) : 'none',
}))

function toggleLock() {
  view.unlocked = unlocked.value ? '' : props.camera
}
const moves = useCameraMoves(
  () => props.camera,
  () => unlocked.value,
  () => box.value,
  () => !!element.value?.matches(':hover'),
)
const { told } = moves
const { leave } = useLeaving()
/** A pointer's place in the drawn picture from −1 to 1. */
function at(e: PointerEvent) {
  const b = element.value!.getBoundingClientRect()
  const f = around.value ? { x: 0, y: 0, width: width.value, height: height.value } : box.value
  return new Vector2(((e.clientX - b.x - f.x) / f.width) * 2 - 1, 1 - ((e.clientY - b.y - f.y) / f.height) * 2)
}
function down(e: PointerEvent) {
  if (!presses(e) || !props.camera) return
  if (view.picking) return pickFocus(e)
  if (!unlocked.value) {
    const hit = stage.pick(at(e), lens)
    if (hit) view.select('nodes', hit.node)
    return
  }
  moves.down(e, element.value!)
}
/** Focuses on what is under the pointer. */
function pickFocus(e: PointerEvent) {
  const hit = stage.pick(at(e), lens)
  const pull = view.picking === 'pull'
  scene.run('focusPick', {
    id: props.camera,
    frame: head.story,
    node: hit?.node ?? '',
    at: hit?.at,
    pull,
    key: view.autoKey,
  })
  if (!pull) view.picking = null
}
/** How many keys a drag would shift: with auto-key off the whole move goes along. */
const shifts = computed(() =>
  view.autoKey
    ? 0
    : new Set(
        Object.values(scene.doc.curves)
          .filter((c) => c.node === props.camera && /^(position|turn|lens\.focal|travel)/.test(c.channel))
          .flatMap((c) => c.keys.map((k) => k.frame)),
      ).size,
)
const timecode = computed(() => (scene.loaded ? core.timecode('story', head.story) : ''))
const picks = {
  follow: 'press what is to be in focus',
  pull: 'press what is to be in focus at this frame; press again at another frame to pull to it',
}
</script>
<template>
  <div
    ref="element"
    v-bind="pane"
    class="lens"
    :class="{ unlocked, picking: view.picking }"
    tabindex="-1"
    role="application"
    aria-label="Lens view"
    @pointerdown="down"
    @wheel="moves.wheel"
  >
    <template v-if="node?.camera">
      <div v-if="around" class="shade" :style="shade" aria-hidden="true"></div>
      <BoardOver v-if="!matched" v-model:beside="beside" :camera="camera" :box="box" />
      <DeliveredFrame v-if="!unlocked" :picture="delivered.picture.value" :box="box" />
      <div class="gate looked" :class="{ unlocked, air: onAir }" :style="style">
        <LensGuides v-if="view.guides && !matched" :camera="camera" :width="box.width" :height="box.height" />
        <div v-if="onAir" class="tally" role="img" aria-label="on air"></div>
        <div class="legend">
          <CameraBadge :number="node.camera.number" :color="node.camera.color" />
          <span class="name">{{ node.name }}</span>
        </div>
        <div class="stamp story">◷ {{ timecode }}</div>
        <div v-if="unlocked" class="moving">
          {{
            told ||
            `unlocked: drag to ${handlings.find((h) => h.id === moves.how.value)!.title}, wheel dollies, arrows fly`
          }}
        </div>
        <div v-if="unlocked && shifts && !told" class="moving shifts">
          moves {{ shifts === 1 ? 'its key' : `all ${shifts} keys` }}
          <button
            class="link"
            :title="tip('Auto-key', 'auto-key on or off')"
            @pointerdown.stop
            @click="view.autoKey = true"
          >
            set a key instead
          </button>
        </div>
        <div v-else-if="view.picking && !unlocked" class="moving">{{ picks[view.picking] }}</div>
      </div>
      <MatchOver v-if="matched" :box="box" />
      <InsetView />
      <div class="tools" @pointerdown.stop @wheel.stop>
        <DeliveredButton :delivered="delivered" />
        <button
          class="icon"
          :aria-pressed="unlocked"
          :aria-label="unlocked ? 'Lock the camera' : 'Unlock the camera for moving'"
          :title="tip(unlocked ? 'Lock the camera' : 'Unlock the camera for moving', 'unlock the camera for moving')"
          @click="toggleLock"
        >
          <LockOpen v-if="unlocked" :size="15" /><Lock v-else :size="15" />
        </button>
        <template v-if="unlocked">
          <el-select v-model="view.handling" size="small" class="how" aria-label="A drag does">
            <el-option
              v-for="h in handlings"
              :key="h.id"
              :value="h.id"
              :label="h.key ? `${h.title} (${h.key.toUpperCase()})` : h.title"
            />
          </el-select>
          <button
            v-if="node.path"
            class="icon"
            aria-label="Move the whole path"
            title="Moving the camera moves its whole path"
            :aria-pressed="view.movePath"
            @click="view.movePath = !view.movePath"
          >
            <Route :size="15" />
          </button>
          <button
            class="icon"
            aria-label="Add a position"
            :title="tip('Add a position here', 'add a position to the move')"
            @click="leave(camera)"
          >
            <MapPinPlus :size="15" />
          </button>
        </template>
        <button
          class="icon"
          aria-label="Pick the focus"
          title="Pick what is in focus"
          :aria-pressed="view.picking === 'follow'"
          @click="view.picking = view.picking === 'follow' ? null : 'follow'"
        >
          <Crosshair :size="15" />
        </button>
        <el-popover placement="top-start" :width="190" trigger="click">
          <template #reference>
            <button class="icon" :aria-pressed="view.guides" aria-label="Guides" title="Guides (G hides them all)">
              <Grid3x3 :size="15" />
            </button>
          </template>
          <label class="check"><input v-model="view.guides" type="checkbox" /> all guides (G)</label>
          <label v-for="(title, g) in guideNames" :key="g" class="check"
            ><input v-model="guides[g]" type="checkbox" :disabled="!view.guides" /> {{ title }}</label
          >
        </el-popover>
        <button
          v-if="view.desk === 'frame'"
          class="icon"
          aria-label="All shapes"
          aria-pressed="false"
          title="The picture in every format side by side, and how each is framed"
          @click="view.shapes = true"
        >
          <Columns3 :size="15" />
        </button>
        <button
          class="icon"
          aria-label="Inset"
          title="Another view on top of this one"
          :aria-pressed="!!view.inset"
          @click="view.inset = view.inset ? '' : 'scout'"
        >
          <PictureInPicture2 :size="15" />
        </button>
      </div>
    </template>
    <div v-else class="empty">
      <p>No camera is looked through.</p>
      <p class="dim">Pick a camera on the wall, or press its number.</p>
    </div>
  </div>
</template>
<style scoped>
.lens {
  position: relative;
  height: 100%;
  overflow: hidden;
  outline: none;
  touch-action: none;
}
.gate {
  position: absolute;
  pointer-events: none;
  outline: 2px solid var(--camera);
  outline-offset: 1px;
}
.gate.unlocked {
  outline: 5px dashed var(--brass);
}
.moving {
  position: absolute;
  display: flex;
  gap: 6px;
  align-items: center;
  border-radius: 6px;
  font-size: 12px;
  left: 50%;
  bottom: 40px;
  transform: translateX(-50%);
  padding: 4px 12px;
  background: var(--brass);
  color: var(--ink);
  font-weight: 500;
  white-space: nowrap;
}
.moving.shifts {
  bottom: 72px;
  pointer-events: auto;
}
.moving .link {
  color: inherit;
  text-decoration: underline;
}
.tools {
  position: absolute;
  left: 14px;
  max-width: calc(100% - 2 * 14px);
  bottom: 14px;
  display: flex;
  flex-wrap: wrap-reverse;
  gap: 4px;
}
.how {
  width: 190px;
}
.shade {
  position: absolute;
  box-shadow: 0 0 0 9999px rgb(17 24 27 / 0.55);
  pointer-events: none;
}
.unlocked {
  cursor: move;
}
.picking {
  cursor: crosshair;
}
</style>
